import assert from 'node:assert/strict';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { auditRoutes, credentialRoutes, projectRoutes } from '@vaquero/contracts';
import { startSshHost } from '@vaquero/standins';
import { sql } from 'drizzle-orm';
import { execa } from 'execa';
import { commandLine } from './support/command-line.ts';
import { temporaryFolder, until } from './support/place.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { makeWorkingCopy, recipeOf, writesPage } from './support/working-copy.ts';

const params = { project: 'crew-rota' };

test('a repository is read over SSH with a key made here, from the host that was confirmed and no other', async (t) => {
  const service = await startTestService(t);
  const host = await startSshHost(join(temporaryFolder(t), 'host'));
  t.after(host.stop);
  const { url, folder } = host.repository('crew-rota');
  await execa('git', ['init', '--quiet', '--bare', '--initial-branch=main', folder]);
  const copy = await makeWorkingCopy(join(service.state, 'copy'));
  await copy.commit('Rota', { 'vaquero.yaml': recipeOf(writesPage('rota')) });
  await copy.git('push', '--quiet', folder, 'main');
  const { operator } = service;

  const made = await operator.call(credentialRoutes.makeKeyRoute, { body: { url } });
  assert.match(made.publicKey, /^ssh-ed25519 [A-Za-z0-9+/]+=* Vaquero reads 127\.0\.0\.1$/);
  const hostKey = await host.fingerprint();
  assert.deepEqual(made.hostKeys, [{ type: 'ed25519', fingerprint: hostKey }]);
  const make = (wish: { url?: string; key?: string; hostKey?: string } = {}) =>
    operator.call(projectRoutes.makeProjectRoute, {
      body: {
        name: 'crew-rota',
        repository: { kind: 'ssh', url, key: made.key, hostKey, ...wish },
      },
    });

  // Before the key was added there; with what was not confirmed; for another place than it was made for.
  assert.equal((await refusalOf(make())).code, 'repository-denied');
  const other = `SHA256:${'A'.repeat(43)}`;
  assert.equal((await refusalOf(make({ hostKey: other }))).code, 'host-key-unconfirmed');
  assert.equal((await refusalOf(make({ url: host.repository('wages').url }))).code, 'key-unknown');
  host.admit(made.publicKey);
  const absent = await operator.call(credentialRoutes.makeKeyRoute, {
    body: { url: host.repository('absent').url },
  });
  host.admit(made.publicKey, absent.publicKey);
  const nowhere = make({ url: absent.place, key: absent.key });
  assert.equal((await refusalOf(nowhere)).code, 'repository-not-found');
  // Names that a program would take for its options, and hosts where nothing answers.
  for (const bad of ['ssh://-oProxyCommand=x@host/f', 'git@-oProxyCommand=x:f', 'ssh://git@h/a b'])
    assert.equal(
      (await refusalOf(operator.call(credentialRoutes.makeKeyRoute, { body: { url: bad } }))).code,
      'invalid-request',
    );
  const silent = operator.call(credentialRoutes.makeKeyRoute, {
    body: { url: 'ssh://git@127.0.0.1:1/f' },
  });
  assert.equal((await refusalOf(silent)).code, 'repository-unreachable');

  const project = await make();
  assert.deepEqual(
    [project.repository.kind, project.repository.place, project.repository.credential?.hostKey],
    ['ssh', url, hostKey],
  );
  assert.equal((await service.buildEnded('crew-rota', 1)).state, 'passed');
  // It is used once, and lies nowhere as it is.
  const again = operator.call(projectRoutes.makeProjectRoute, {
    body: { name: 'twin', repository: { kind: 'ssh', url, key: made.key, hostKey } },
  });
  assert.equal((await refusalOf(again)).code, 'key-unknown');
  const { entries } = await operator.call(auditRoutes.auditRoute, { params });
  const rows = await service.deps.db.execute(
    sql`SELECT CONVERT(sealed USING latin1) AS sealed FROM repository_credentials`,
  );
  assert.doesNotMatch(JSON.stringify([made, project, entries, rows]), /PRIVATE KEY/);
  const lies = () => readdirSync(join(service.state, 'ssh')).length;
  await until('no look uses it', async () => lies() === 0);

  // Another key takes its place once it opens it; a token has no place here; a builder sets nothing.
  const wren = await service.person('wren', 'builder', 'crew-rota');
  const anew = (client: typeof operator) =>
    client.call(credentialRoutes.makeProjectKeyRoute, { params });
  assert.equal((await refusalOf(anew(wren.client))).code, 'not-allowed');
  const token = operator.call(credentialRoutes.setCredentialRoute, {
    params,
    body: { secret: 'token' },
  });
  assert.equal((await refusalOf(token)).code, 'credential-unfit');
  const second = await anew(operator);
  const set = (body: { key: string; hostKey: string }) =>
    operator.call(credentialRoutes.confirmKeyRoute, { params, body });
  const fresh = { key: second.key, hostKey };
  assert.equal((await refusalOf(set(fresh))).code, 'repository-denied');
  host.admit(second.publicKey);
  const both = await Promise.allSettled([set(fresh), set(fresh)]);
  assert.equal(both.filter(({ status }) => status === 'fulfilled').length, 1);
  await copy.commit('More', { 'vaquero.yaml': recipeOf(writesPage('more')) });
  await copy.git('push', '--quiet', folder, 'main');
  assert.equal((await service.buildEnded('crew-rota', 2)).state, 'passed');

  // A host that shows another key is not spoken to, and that is said; what it shows now is confirmed anew.
  await host.changeKey();
  await copy.commit('Third', { 'vaquero.yaml': recipeOf(writesPage('third')) });
  await copy.git('push', '--quiet', folder, 'main');
  const look = operator.call(projectRoutes.lookRoute, { params });
  assert.equal((await refusalOf(look)).code, 'host-key-changed');
  const troubled = await operator.call(projectRoutes.showProjectRoute, { params });
  assert.match(troubled.repository.trouble ?? '', /another key than the one that was confirmed/);

  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const told = await vaquero('repository-key', 'crew-rota', '--json');
  const third = credentialRoutes.makeProjectKeyRoute.reply.parse(JSON.parse(told.out));
  host.admit(third.publicKey);
  const now = await host.fingerprint();
  const kept = await vaquero('repository-key', 'crew-rota', '--key', third.key, '--host-key', now);
  assert.match(kept.out, /is read over SSH as .*, with a key set by ines/);
  assert.equal((await service.buildEnded('crew-rota', 3)).state, 'passed');
  assert.equal((await vaquero('repository-token', 'crew-rota', '--take-back')).code, 0);
  await until('it is said that it is not read', async () => {
    const { repository } = await operator.call(projectRoutes.showProjectRoute, { params });
    return /goes by a key/.test(repository.trouble ?? '');
  });
});
