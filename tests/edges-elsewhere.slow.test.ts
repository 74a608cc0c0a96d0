import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { chmodSync, existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import test, { type TestContext } from 'node:test';
import { type EdgeSeen, edgeRoutes, headersOfRole } from '@vaquero/contracts';
import { type Digest, hostLabelOf, type Instant } from '@vaquero/core';
import { type RunningEdge, readEdgeConfig, startEdge } from '@vaquero/edge';
import { makeLog } from '@vaquero/service';
import { sql } from 'drizzle-orm';
import { atEnd, freePort, temporaryFolder, until } from './support/place.ts';
import { askEdge, refusalOf, startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

/** An edge with a disk of its own, as on another machine. */
async function edgeElsewhere(t: TestContext, service: TestService) {
  const { token } = await service.operator.call(edgeRoutes.addEdgeRoute, {
    body: { name: 'pier' },
  });
  const state = temporaryFolder(t);
  const port = await freePort();
  const config = readEdgeConfig({
    VAQUERO_STATE: state,
    VAQUERO_API: service.address,
    VAQUERO_EDGE_TOKEN: token,
    VAQUERO_EDGE_PORT: String(port),
    VAQUERO_STORE: 'elsewhere',
  });
  let edge: RunningEdge | undefined;
  const start = async (): Promise<void> => {
    edge = await startEdge({ config, log: makeLog('test', 'fatal') });
  };
  const stop = async (): Promise<void> => {
    await edge?.stop();
    edge = undefined;
  };
  atEnd(t, stop);
  await start();
  const page = (host: string, path = '/') => askEdge(port, `${host}:${service.edgePort}`, path, {});
  return { state, token, start, stop, page };
}

const edges = async (service: TestService): Promise<readonly EdgeSeen[]> =>
  (await service.operator.call(edgeRoutes.listEdgesRoute, {})).edges;
const blobAt = (state: string, digest: string): string =>
  join(state, 'store/sha256', digest.slice(0, 2), digest);

test('an edge elsewhere fetches what it serves, is waited for by moves, and outlives the api', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  const pier = await edgeElsewhere(t, service);
  const staging = await pier.page('staging.timetable.localhost');
  assert.deepEqual([staging.status, staging.text.trim()], [200, '<h1>one</h1>']);
  const two = await made.push('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  assert.equal((await pier.page('staging.timetable.localhost')).text.trim(), '<h1>two</h1>');
  const moved = await service.promote('timetable');
  assert.deepEqual([moved.confirmed, moved.unheard], [true, []]);
  const live = await pier.page('timetable.localhost');
  assert.equal(live.headers['vaquero-artifact'], two.artifact?.digest);
  assert.ok(existsSync(blobAt(pier.state, two.artifact?.digest ?? '')));
  await until('both edges are up to date', async () =>
    (await edges(service)).every((edge) => edge.present && edge.current),
  );

  // Its disk spoils the page: the next visitor gets it all the same, fetched anew.
  const [page = ''] = ['<h1>two</h1>'].map((text) =>
    createHash('sha256').update(text).digest('hex'),
  );
  await pier.stop();
  chmodSync(blobAt(pier.state, page), 0o644);
  writeFileSync(blobAt(pier.state, page), 'spoilt');
  await pier.start();
  assert.equal((await pier.page('timetable.localhost')).text.trim(), '<h1>two</h1>');

  // Without the api it goes on, and comes back after a restart, from its own disk.
  await service.stopApi();
  await pier.stop();
  await pier.start();
  assert.equal((await pier.page('timetable.localhost')).text.trim(), '<h1>two</h1>');
});

test('an edge elsewhere fetches an artifact that no environment serves when somebody asks for it', async (t) => {
  let ahead = 0;
  const service = await startTestService(t, { clock: () => (Date.now() + ahead) as Instant });
  const made = await service.project('timetable');
  const one = await made.push('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await made.push('Two', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  // What was served within the last hour is brought as well: open pages may ask for it.
  ahead = 2 * 3_600_000;
  await made.push('Three', { 'vaquero.yaml': recipeOf(writesPage('three')) });
  const pier = await edgeElsewhere(t, service);
  const digest = one.artifact?.digest as Digest;
  assert.equal(existsSync(blobAt(pier.state, digest)), false);
  const base = service.deps.config.artifactsBase.replace(/:\d+$/, '');
  const page = await pier.page(`${hostLabelOf(digest)}.${base}`);
  assert.deepEqual([page.status, page.text.trim()], [200, '<h1>one</h1>']);
  assert.ok(existsSync(blobAt(pier.state, digest)));
});

test('an edge is dropped only when it is silent, and its token is then good for nothing', async (t) => {
  const service = await startTestService(t);
  const pier = await edgeElsewhere(t, service);
  const drop = () => service.operator.call(edgeRoutes.dropEdgeRoute, { params: { edge: 'pier' } });
  const blobs = `${service.address}/role/blobs/${'0'.repeat(64)}`;
  const headers = headersOfRole(pier.token);
  await until('it was heard of', async () =>
    (await edges(service)).some((edge) => edge.name === 'pier' && edge.present),
  );
  assert.equal((await refusalOf(drop())).code, 'edge-serves');
  assert.equal((await fetch(blobs, { headers })).status, 404, 'there is no such blob');
  await pier.stop();
  // Time passes: the database's clock tells how long it was silent.
  await service.deps.db.execute(
    sql`update machines set beat_at = date_sub(beat_at, interval 10 second) where name = 'pier'`,
  );
  await drop();
  assert.ok((await edges(service)).every((edge) => edge.name !== 'pier'));
  assert.equal((await fetch(blobs, { headers })).status, 401);
  // The name is free again, and a name in use is not given twice.
  const add = (name: string) => service.operator.call(edgeRoutes.addEdgeRoute, { body: { name } });
  await add('pier');
  assert.equal((await refusalOf(add('pier'))).code, 'name-taken');
});
