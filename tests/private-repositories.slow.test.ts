import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { auditRoutes, buildRoutes, credentialRoutes, projectRoutes } from '@vaquero/contracts';
import { startGitHost } from '@vaquero/standins';
import { sql } from 'drizzle-orm';
import { commandLine } from './support/command-line.ts';
import { temporaryFolder, until } from './support/place.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { makeWorkingCopy, recipeOf, writesPage } from './support/working-copy.ts';

const params = { project: 'signage' };
const token = 'read-only:0fTheQuay%41';

test('a private repository is read with a token that nobody sees again; taken back, it is not read', async (t) => {
  const service = await startTestService(t);
  const host = await startGitHost(join(temporaryFolder(t), 'host'));
  t.after(host.stop);
  const { url, folder } = await host.repository('signage');
  const copy = await makeWorkingCopy(join(service.state, 'copy'));
  await copy.commit('Signs', { 'vaquero.yaml': recipeOf(writesPage('signs')) });
  await copy.git('push', '--quiet', folder, 'main');
  host.behave('private', { user: 'ferry-bot', token });
  const make = (credential?: { user: string; secret: string }) =>
    service.operator.call(projectRoutes.makeProjectRoute, {
      body: {
        name: 'signage',
        repository: { kind: 'http', url, ...(credential === undefined ? {} : { credential }) },
      },
    });
  assert.equal((await refusalOf(make())).code, 'repository-denied');
  assert.equal(
    (await refusalOf(make({ user: 'ferry-bot', secret: 'guessed' }))).code,
    'repository-denied',
  );
  for (const secret of ['two\nlines', 'sp ace'])
    assert.equal((await refusalOf(make({ user: 'x', secret }))).code, 'invalid-request');
  assert.equal((await refusalOf(make({ user: 'a:b', secret: token }))).code, 'invalid-request');

  // By the command line, from standard input.
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const own = { VAQUERO_TOKEN: service.operatorSecret };
  const told = commandLine(service, join(service.state, 'home'), own, `${token}\n`);
  const made = await told('make', 'signage', '--url', url, '--private', '--user', 'ferry-bot');
  assert.equal(made.code, 0, made.err);
  const first = await service.buildEnded('signage', 1);
  assert.equal(first.state, 'passed');
  const seen = await service.operator.call(projectRoutes.showProjectRoute, { params });
  assert.deepEqual(
    [seen.repository.credential?.user, seen.repository.credential?.by],
    ['ferry-bot', 'ines'],
  );

  // It stands nowhere: neither in a reply, nor in the record, nor in the database as it is.
  const { entries } = await service.operator.call(auditRoutes.auditRoute, { params });
  const rows = await service.deps.db.execute(
    sql`SELECT HEX(sealed) AS sealed FROM repository_credentials`,
  );
  const everywhere = JSON.stringify([made, seen, entries, rows]);
  for (const form of [
    token,
    Buffer.from(`ferry-bot:${token}`).toString('base64'),
    Buffer.from(token).toString('hex').toUpperCase(),
  ])
    assert.ok(!everywhere.includes(form), form);

  // A new one is tried before it takes the place of the old; then it is read with that.
  const wren = await service.person('wren', 'builder', 'signage');
  const set = (secret: string, client = service.operator) =>
    client.call(credentialRoutes.setCredentialRoute, {
      params,
      body: { user: 'ferry-bot', secret },
    });
  assert.equal((await refusalOf(set(token, wren.client))).code, 'not-allowed');
  assert.equal((await refusalOf(set('stale'))).code, 'repository-denied');
  host.behave('private', { user: 'ferry-bot', token: 'renewed' });
  await set('renewed');
  await copy.commit('More signs', { 'vaquero.yaml': recipeOf(writesPage('more')) });
  await copy.git('push', '--quiet', folder, 'main');
  assert.equal((await service.buildEnded('signage', 2)).state, 'passed');

  // A redirect is not followed, so that no other host is given it; a folder or a hosted one needs none.
  const other = await startGitHost(join(temporaryFolder(t), 'other'));
  t.after(other.stop);
  other.behave('private', { user: 'ferry-bot', token: 'renewed' });
  await other.repository('signage');
  host.behave('open');
  host.redirectTo(other.origin);
  assert.equal((await refusalOf(set('renewed'))).code, 'repository-unreachable');
  host.redirectTo(null);
  await service.project('timetable');
  const hosted = service.operator.call(credentialRoutes.setCredentialRoute, {
    params: { project: 'timetable' },
    body: { secret: token },
  });
  assert.equal((await refusalOf(hosted)).code, 'no-credential-needed');

  host.behave('private', { user: 'ferry-bot', token: 'renewed' });
  const back = await vaquero('repository-token', 'signage', '--take-back');
  assert.match(back.err, /^The repository of signage is read without a token/m);
  await until('it is said that it is not read', async () => {
    const { repository } = await service.operator.call(projectRoutes.showProjectRoute, { params });
    return /does not let Vaquero read it/.test(repository.trouble ?? '');
  });
  assert.equal((await vaquero('repository-token', 'signage', '--take-back')).code, 3);
  const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, { params });
  assert.equal(builds.length, 2);
});
