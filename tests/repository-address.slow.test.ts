import assert from 'node:assert/strict';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { auditRoutes, buildRoutes, environmentRoutes, projectRoutes } from '@vaquero/contracts';
import { startGitHost } from '@vaquero/standins';
import { commandLine } from './support/command-line.ts';
import { temporaryFolder } from './support/place.ts';
import { refusalOf, startTestService } from './support/service.ts';
import { makeWorkingCopy, recipeOf, writesPage } from './support/working-copy.ts';

const project = 'tides';
const params = { project };
const secret = 'low-water';

test('a repository is read from another address once it is the same one; what opened the old address is not sent there', async (t) => {
  const service = await startTestService(t);
  const host = await startGitHost(join(temporaryFolder(t), 'host'));
  const other = await startGitHost(join(temporaryFolder(t), 'other'));
  t.after(host.stop);
  t.after(other.stop);
  const [before, after] = [await host.repository('tides'), await other.repository('sea/tides')];
  const strange = await other.repository('signage');
  const copy = await makeWorkingCopy(join(service.state, 'copy'));
  await copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await copy.git('push', '--quiet', before.folder, 'main');
  await copy.git('push', '--quiet', after.folder, 'main:trunk');
  const signs = await makeWorkingCopy(join(service.state, 'signs'));
  await signs.commit('Signs', { 'vaquero.yaml': recipeOf(writesPage('signs')) });
  await signs.git('push', '--quiet', strange.folder, 'main');
  host.behave('private', { user: 'ferry-bot', token: secret });
  await service.operator.call(projectRoutes.makeProjectRoute, {
    body: {
      name: project,
      repository: {
        kind: 'http',
        url: before.url,
        credential: { user: 'ferry-bot', secret },
      },
    },
  });
  await service.buildEnded(project, 1);
  const show = () => service.operator.call(projectRoutes.showProjectRoute, { params });
  const move = (url: string, more: { from?: string; isAnother?: boolean } = {}) =>
    service.operator.call(projectRoutes.moveRepositoryRoute, {
      params,
      body: { repository: { kind: 'http', url }, reason: 'it moved', from: before.url, ...more },
    });

  // What stands in the way is said, and nothing is changed.
  assert.equal((await refusalOf(move(after.url))).code, 'branch-missing');
  await copy.git('push', '--quiet', after.folder, 'main');
  assert.equal((await refusalOf(move(`${after.url}-not`))).code, 'repository-not-found');
  const foreign = await refusalOf(move(strange.url));
  assert.equal(foreign.code, 'repository-another');
  assert.match(foreign.detail, /where main stands by now, is not in it/);
  const late = await refusalOf(move(after.url, { from: 'https://quay.example/old' }));
  assert.equal(late.code, 'changed-since');
  const maintainer = await service.person('wren', 'maintainer', project);
  const own = await refusalOf(
    maintainer.client.call(projectRoutes.moveRepositoryRoute, {
      params,
      body: { repository: { kind: 'http', url: after.url }, reason: 'x', from: before.url },
    }),
  );
  assert.equal(own.code, 'not-allowed');
  assert.deepEqual(
    [(await show()).repository.place, (await show()).repository.credential?.user],
    [before.url, 'ferry-bot'],
  );

  // By the command line: newer commits than are known here are no other repository.
  await copy.commit('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  await copy.git('push', '--quiet', after.folder, 'main');
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const silent = await vaquero('repository-url', project, after.url);
  assert.deepEqual([silent.code, silent.out], [2, '']);
  assert.match(silent.err, /It takes a reason/);
  const moved = await vaquero(
    'repository-url',
    project,
    after.url,
    '--reason',
    'new host',
    '--yes',
  );
  assert.equal(moved.code, 0, moved.err);
  assert.match(moved.out, new RegExp(`^repository +${after.url}$`, 'm'));
  const second = await service.buildEnded(project, 2);
  assert.deepEqual([second.commit.subject, second.state], ['Two', 'passed']);
  const { repository } = await show();
  assert.deepEqual([repository.place, repository.credential], [after.url, null]);
  other.behave('private', { user: 'ferry-bot', token: 'high-water' });
  const denied = await refusalOf(service.operator.call(projectRoutes.lookRoute, { params }));
  assert.equal(denied.code, 'repository-denied', 'no token of the old host came along');
  other.behave('open');
  const { entries } = await service.operator.call(auditRoutes.auditRoute, { params });
  const entry = entries.find(({ kind }) => kind === 'repository.moved');
  const told = JSON.parse(entry?.bytes ?? '');
  assert.deepEqual(
    [entry?.why?.text, told.before, told.after],
    ['new host', { place: before.url }, { place: after.url }],
  );

  // Where another one is meant, its commits are built, and what was built stays in the history.
  await move(strange.url, { from: after.url, isAnother: true });
  const third = await service.buildEnded(project, 3);
  assert.equal(third.commit.subject, 'Signs');
  const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, { params });
  assert.deepEqual(
    builds.map(({ number }) => number),
    [3, 2, 1],
  );
});

test('what is hosted here is read from nowhere else, and a folder only below what the operator opened', async (t) => {
  const service = await startTestService(t);
  await service.project('timetable');
  const move = (place: string) =>
    service.operator.call(projectRoutes.moveRepositoryRoute, {
      params: { project: 'timetable' },
      body: { repository: { kind: 'path', path: place }, reason: 'x', from: '' },
    });
  assert.equal((await refusalOf(move('/etc'))).code, 'repository-hosted');
});

test('a project is made with a map of one’s own: its environments are there at once, and a faulty one makes nothing', async (t) => {
  const service = await startTestService(t);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const file = join(temporaryFolder(t), 'map.yaml');
  const lines = ['map: tides', 'format: 1', 'lanes: [live, rehearsal]', 'environments:'];
  writeFileSync(file, [...lines, '  live: {accepts: {from: nowhere}}', ''].join('\n'));
  const faulty = await vaquero('make', project, '--map', file);
  assert.equal(faulty.code, 2, faulty.err);
  assert.match(faulty.err, /line \d+/);
  assert.match((await vaquero('projects')).out, /No project yet/);
  const rules = ['  live: {accepts: {from: rehearsal}}', '  rehearsal: {follows: {branch: main}}'];
  writeFileSync(file, [...lines, ...rules, ''].join('\n'));
  const made = await vaquero('make', project, '--map', file);
  assert.equal(made.code, 0, made.err);
  assert.match(made.out, /^rehearsal +http:\/\/rehearsal\.tides\./m);
  const live = await service.operator.call(environmentRoutes.liveRoute);
  assert.deepEqual(
    live.projects.flatMap(({ environments }) => environments.map(({ name }) => name)),
    ['live', 'rehearsal'],
  );
  // A map's top lane is one environment: a family alone makes no project.
  const each = ['lanes: [try]', 'environments:', '  try: {each: {branch: "try/*"}}', ''];
  writeFileSync(file, ['map: signs', 'format: 1', ...each].join('\n'));
  const bare = await vaquero('make', 'signs', '--map', file);
  assert.equal(bare.code, 2, bare.err);
  assert.match(bare.err, /the top lane is one environment/);
  assert.doesNotMatch((await vaquero('projects')).out, /signs/);
});
