import assert from 'node:assert/strict';
import test, { type TestContext } from 'node:test';
import {
  auditRoutes,
  buildRoutes,
  type Client,
  environmentRoutes,
  type MoveReply,
  makeClient,
} from '@vaquero/contracts';
import { traitsOf } from '@vaquero/core';
import { readEdgeConfig, startEdge } from '@vaquero/edge';
import { readRunnerConfig, startRunner } from '@vaquero/runner';
import { makeLog, readApiConfig, startApi } from '@vaquero/service';
import { listenTo, positionsOf } from './support/events.ts';
import { atEnd, freePort, until } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const migrationsDirectory = new URL('../packages/service/migrations', import.meta.url).pathname;

/** A second api process against the same database and repositories. */
async function anotherApi(t: TestContext, service: TestService) {
  const port = await freePort();
  const api = await startApi({
    config: readApiConfig({ ...service.environment, VAQUERO_PORT: String(port) }),
    log: makeLog('test', 'fatal'),
    migrationsDirectory,
  });
  let runs = true;
  const stop = async (): Promise<void> => {
    if (runs) await api.stop();
    runs = false;
  };
  atEnd(t, stop);
  const address = `http://127.0.0.1:${port}`;
  const client = makeClient({
    address,
    headers: { authorization: `Bearer ${service.operatorSecret}` },
  });
  return { address, client, stop };
}

async function promoteBy(service: TestService, client: Client): Promise<MoveReply> {
  const [production, staging] = [
    await service.environmentOf('timetable', 'production'),
    await service.environmentOf('timetable', 'staging'),
  ];
  return client.call(environmentRoutes.promoteRoute, {
    params: { project: 'timetable', environment: 'production' },
    body: {
      from: 'staging',
      artifact: staging.serves?.artifact ?? ('0'.repeat(64) as never),
      seen: { generation: production.generation, artifact: production.serves?.artifact ?? null },
    },
  });
}

test('two api processes on one database: a runner at one, an edge at the other, moves by either', async (t) => {
  const service = await startTestService(t, { roles: ['edge'] });
  const second = await anotherApi(t, service);
  const runner = await startRunner({
    config: readRunnerConfig({ ...service.environment, VAQUERO_API: second.address }),
    log: makeLog('test', 'fatal'),
  });
  atEnd(t, () => runner.stop());
  const made = await service.project('timetable');
  const page = async (host: string): Promise<string> =>
    (await service.page(`${host}.localhost:${service.edgePort}`)).text;

  // Pushed to the first, claimed and finished at the second, served by an edge that knows only the first.
  const one = await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  assert.equal(one.failure, null);
  assert.equal(await page('staging.timetable'), '<h1>one</h1>');

  // Moved at the process that no edge speaks to: confirmed all the same, and true when the call returns.
  const moved = await promoteBy(service, second.client);
  assert.deepEqual([moved.confirmed, moved.unheard], [true, []]);
  assert.equal(await page('timetable'), '<h1>one</h1>');

  const two = await made.push('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  assert.equal(two.failure, null);
  const clients = [service.operator, second.client];
  const both = await Promise.allSettled(clients.map((client) => promoteBy(service, client)));
  assert.equal(both.filter((end) => end.status === 'fulfilled').length, 1);
  assert.equal(await page('timetable'), '<h1>two</h1>');

  const { entries } = await second.client.call(auditRoutes.auditRoute, {
    params: { project: 'timetable' },
    query: { limit: 200 },
  });
  const positions = entries.map((entry) => entry.position);
  assert.equal(new Set(positions).size, positions.length);
  assert.equal(entries.filter((entry) => entry.kind === 'build.passed').length, 2);
  assert.equal(entries.filter((entry) => entry.kind === 'environment.promoted').length, 2);
});

test('when one api process ends, the other takes over what waited and what it left', async (t) => {
  const service = await startTestService(t, { roles: [] });
  const second = await anotherApi(t, service);
  const made = await service.project('timetable');
  await made.copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await made.copy.push(made.remote);
  await until('it waits', async () => {
    const { builds } = await second.client.call(buildRoutes.listBuildsRoute, {
      params: { project: 'timetable' },
      query: { limit: 1 },
    });
    return builds[0]?.state === 'queued';
  });
  await service.stopApi();
  const environment = { ...service.environment, VAQUERO_API: second.address };
  const log = makeLog('test', 'fatal');
  const edge = await startEdge({ config: readEdgeConfig(environment), log });
  atEnd(t, () => edge.stop());
  const runner = await startRunner({ config: readRunnerConfig(environment), log });
  atEnd(t, () => runner.stop());
  await until(
    'staging serves it',
    async () =>
      (await service.page(`staging.timetable.localhost:${service.edgePort}`)).text ===
      '<h1>one</h1>',
  );
  const { entries } = await second.client.call(auditRoutes.auditRoute, {
    params: { project: 'timetable' },
    query: { limit: 200 },
  });
  assert.equal(entries.filter((entry) => entry.kind === 'environment.automatic').length, 1);
});

const inThreeSteps = `recipe: site
format: 1
steps:
  first: { run: sleep 1.5 }
  second: { run: sleep 1.5, after: first }
  pages: { run: 'mkdir out && echo "<h1>one</h1>" > out/index.html', after: second }
serve: { site: out }
`;

test('two api processes tell the same events in the same order without a gap, also when one of them ends', async (t) => {
  const service = await startTestService(t);
  const second = await anotherApi(t, service);
  const made = await service.project('timetable');
  const secret = service.operatorSecret;
  const here = await listenTo(t, service.address, { secret, project: 'timetable', after: 0 });
  const there = await listenTo(t, second.address, { secret, project: 'timetable', after: 0 });
  await made.push('One', { 'vaquero.yaml': inThreeSteps });
  await promoteBy(service, second.client);
  const isMoved = ({ what }: { what: string }): boolean => what === 'environment';
  await until('both tell of both moves', () =>
    [here, there].every(({ heard }) => heard.filter((one) => isMoved(one) && one.id).length === 2),
  );
  assert.deepEqual(positionsOf(here.heard), positionsOf(there.heard));
  // Steps are no decisions; the process that took no report of them tells of them all the same.
  assert.ok(there.heard.some(({ id, build }) => id === null && build === 1));

  await second.stop();
  const [before = 0] = positionsOf(there.heard).toReversed();
  await made.push('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  const again = await listenTo(t, service.address, { secret, project: 'timetable', after: before });
  await until(
    'the other one goes on where the first had come to',
    () => again.heard.some(isMoved) && positionsOf(again.heard).length > 0,
  );
  const { entries } = await service.operator.call(auditRoutes.auditRoute, {
    params: { project: 'timetable' },
    query: { limit: 200 },
  });
  const shown = entries.filter(({ kind }) => traitsOf(kind).shows !== null);
  const told = [...positionsOf(there.heard), ...positionsOf(again.heard)];
  assert.deepEqual(
    told,
    shown
      .map(({ position }) => position)
      .filter((position) => position >= (told[0] ?? 0) && position <= (told.at(-1) ?? 0))
      .toReversed(),
  );
});
