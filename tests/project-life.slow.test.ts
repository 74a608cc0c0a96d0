import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import {
  buildRoutes,
  environmentRoutes,
  lifeRoutes,
  mapRoutes,
  projectRoutes,
  serviceRoutes,
  variableRoutes,
} from '@vaquero/contracts';
import { commandLine } from './support/command-line.ts';
import { environments, serves } from './support/lanes.ts';
import { changeMap } from './support/maps.ts';
import { until } from './support/place.ts';
import { refusalOf, startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const project = 'timetable';
const params = { project };

const codeOf = (call: Promise<unknown>): Promise<string> =>
  call.then(
    () => 'done',
    async () => (await refusalOf(call)).code,
  );

const led = async (
  service: TestService,
  host: string,
  path = '/',
): Promise<readonly [number, string | undefined]> => {
  const { status, headers } = await service.page(host, path);
  return [status, headers.location];
};

test('a project that is called otherwise is found by its former name: sites, artifacts, calls, pages and Git', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await serves(service, 'staging', 1);
  await service.promote(project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const tried = await vaquero('rename', project, 'sailings', '--try');
  assert.match(
    tried.out,
    /^staging: http:\/\/staging\.timetable\.localhost:\d+ is http:\/\/staging\.sailings\.localhost:\d+, and leads there for 30 days\.$/m,
  );
  assert.equal((await service.page(`${project}.localhost`)).status, 200);
  await service.project('taken');
  assert.equal((await vaquero('rename', project, 'taken', '--reason', 'x', '--yes')).code, 3);
  assert.equal((await vaquero('rename', project, 'Bad Name', '--reason', 'x', '--yes')).code, 2);
  assert.equal((await vaquero('rename', project, 'sailings', '--yes')).code, 2);
  const { client: bo } = await service.person('bo', 'builder', project);
  const rename = (name: string, client = service.operator, of = project) =>
    client.call(lifeRoutes.renameRoute, {
      params: { project: of },
      body: { name, reason: 'only ferries' },
    });
  assert.equal(await codeOf(rename('mine', bo)), 'not-allowed');
  assert.equal((await rename('sailings')).name, 'sailings');

  const port = service.edgePort;
  assert.equal((await service.page('sailings.localhost')).text, '<h1>one</h1>');
  assert.deepEqual(await led(service, `${project}.localhost`, '/fares?zone=2'), [
    308,
    `http://sailings.localhost:${port}/fares?zone=2`,
  ]);
  assert.deepEqual(await led(service, `staging.${project}.localhost`), [
    308,
    `http://staging.sailings.localhost:${port}/`,
  ]);
  const artifacts = await led(
    service,
    `build-1.${project}.${service.deps.config.artifactsBase.split(':')[0]}`,
    '/a',
  );
  assert.equal(artifacts[0], 308);
  assert.match(artifacts[1] ?? '', /^http:\/\/build-1\.sailings\..*\/a$/);
  // Calls, pages and Git are led on; strangers are told nothing.
  assert.equal((await bo.call(projectRoutes.showProjectRoute, { params })).name, 'sailings');
  const { client: stranger } = await service.person('sol', null);
  assert.equal(
    await codeOf(stranger.call(projectRoutes.showProjectRoute, { params })),
    'not-found',
  );
  assert.equal((await vaquero('builds', project)).code, 0);
  await made.copy.commit('Two', { 'two.txt': 'two' });
  assert.ok((await made.copy.push(made.remote)).ok);
  await until(
    'what was pushed to the former address is served',
    async () => {
      const now = await service.environmentOf('sailings', 'staging');
      return now.serves?.build === 2;
    },
    {
      seen: () =>
        service.operator.call(buildRoutes.listBuildsRoute, { params: { project: 'sailings' } }),
    },
  );

  // Back again, the former name is its own, and the one between leads to it; whoever takes a name has it.
  await rename(project, service.operator, 'sailings');
  assert.equal((await service.page(`${project}.localhost`)).text, '<h1>one</h1>');
  assert.deepEqual(await led(service, 'sailings.localhost'), [
    308,
    `http://${project}.localhost:${port}/`,
  ]);
  await service.project('sailings');
  assert.equal((await service.page('sailings.localhost')).status, 503);
  assert.equal(
    (
      await service.operator.call(projectRoutes.showProjectRoute, {
        params: { project: 'sailings' },
      })
    ).name,
    'sailings',
  );
});

test('an environment that the map calls otherwise is found at its former address until somebody has that', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await serves(service, 'staging', 1);
  await changeMap(service, project, (text) =>
    text.replaceAll('staging', 'quay').replace('quay: {follows', 'quay: {was: staging, follows'),
  );
  assert.equal((await service.page(`quay.${project}.localhost`)).text, '<h1>one</h1>');
  const [status, to] = await led(service, `staging.${project}.localhost`, '/a');
  assert.equal(status, 308);
  assert.match(to ?? '', /^http:\/\/quay\.timetable\.localhost:\d+\/a$/);
  await changeMap(service, project, (text) =>
    text
      .replace('quay, preview', 'quay, staging, preview')
      .replace(/^ {2}preview/m, '  staging: {follows: {branch: other}}\n  preview'),
  );
  assert.equal((await service.page(`staging.${project}.localhost`)).status, 503);
});

test('a project ends for good once its name is typed: its sites, values, services and pushes; its history is read', async (t) => {
  const service = await startTestService(t);
  const made = await service.project(project);
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await serves(service, 'staging', 1);
  await service.operator.call(variableRoutes.setVariableRoute, {
    params: { ...params, variable: 'NOTICE' },
    body: { kind: 'secret', value: 'storm' },
  });
  await service.operator.call(serviceRoutes.makeServiceRoute, {
    params: { ...params, service: 'board' },
    body: { shownAs: 'Board', role: 'reader' },
  });
  const { secret } = await service.operator.call(serviceRoutes.makeServiceTokenRoute, {
    params: { ...params, service: 'board' },
    body: { name: 'glass' },
  });
  await service.operator.call(projectRoutes.makeProjectRoute, {
    body: { name: 'signage', repository: { kind: 'shared', project } },
  });
  await service.person('wren', 'reader', project);
  const vaquero = commandLine(service, join(service.state, 'home'), {
    VAQUERO_TOKEN: service.operatorSecret,
  });
  const end = (of: string, typed = of) =>
    vaquero('end-project', of, '--reason', 'the line is closed', '--typed', typed);
  // What others are built from does not go.
  const shared = await end(project);
  assert.equal(shared.code, 3);
  assert.match(shared.err, /signage is built from the repository of timetable/);
  assert.equal((await end('signage')).code, 0);
  const tried = await vaquero('end-project', project, '--try');
  assert.match(tried.out, /end at once.*: production, staging\./);
  assert.match(tried.out, /^For good go: 1 value, 1 service with all tokens\.$/m);
  assert.equal((await end(project, 'timetabel')).code, 2);
  assert.equal((await environments(service)).length, 2);

  // What runs is stopped.
  await made.copy.commit('Two', { 'vaquero.yaml': recipeOf('sleep 600; mkdir out') });
  await made.copy.push(made.remote);
  await until('a build runs', async () => {
    const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, { params });
    return builds[0]?.state === 'running';
  });
  // A push that comes as it ends leaves nothing behind, whichever is first.
  await made.copy.commit('At the same time', { 'late.txt': 'late' });
  const [ended] = await Promise.all([end(project), made.copy.push(made.remote)]);
  assert.equal(ended.code, 0, ended.err);
  assert.equal((await service.buildEnded(project, 2)).state, 'cancelled');
  const gone = await service.page(`staging.${project}.localhost`);
  assert.equal(gone.status, 410);
  assert.match(gone.text, /its project has ended/);
  const glass = await fetch(`${service.address}/api/projects/${project}`, {
    headers: { authorization: `Bearer ${secret}` },
  });
  assert.equal(glass.status, 401);

  const { builds } = await service.operator.call(buildRoutes.listBuildsRoute, { params });
  assert.deepEqual(
    builds.filter(({ state }) => state === 'queued' || state === 'running'),
    [],
  );
  assert.deepEqual(await environments(service), []);
  const shares = service.operator.call(projectRoutes.makeProjectRoute, {
    body: { name: 'boards', repository: { kind: 'shared', project } },
  });
  assert.equal(await codeOf(shares), 'project-ended');

  // Read as before, changed by nothing.
  const history = await vaquero('history', project, 'staging');
  assert.match(history.out, /One/);
  assert.match((await vaquero('projects')).out, /^timetable .*ended/m);
  assert.deepEqual((await service.operator.call(environmentRoutes.liveRoute)).projects, []);
  const text = (await service.operator.call(mapRoutes.showMapRoute, { params })).text;
  const set = service.operator.call(mapRoutes.setMapRoute, {
    params,
    body: { text, reason: 'x', ends: [] },
    seen: '*',
  });
  assert.equal(await codeOf(set), 'project-ended');
  const again = service.operator.call(buildRoutes.buildAgainRoute, { params, body: {} });
  assert.equal(await codeOf(again), 'project-ended');
  await made.copy.commit('Three', { 'three.txt': 'three' });
  const pushed = await made.copy.push(made.remote);
  assert.ok(!pushed.ok);
  await made.copy.git('fetch', '--quiet', made.remote);
  assert.equal((await end(project)).code, 3);
  assert.equal((await vaquero('make', project)).code, 3);
});
