import assert from 'node:assert/strict';
import test from 'node:test';
import { headersOfRole, makeClient, roleRoutes, visitRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import { sql } from 'drizzle-orm';
import { until } from './support/place.ts';
import { startTestService, type TestService } from './support/service.ts';
import { recipeOf, writesPage } from './support/working-copy.ts';

const visitsOf = (service: TestService, environment = 'staging') =>
  service.operator.call(visitRoutes.showVisitsRoute, {
    params: { project: 'timetable', environment },
  });
const pages = (...names: readonly string[]) => ({
  'vaquero.yaml': recipeOf(
    [writesPage('front'), ...names.map((name) => `printf ${name} > out/${name}.html`)].join('\n'),
  ),
});

test('what visitors ask is counted by deploy, once, and a path that the deploy before answered is told', async (t) => {
  const service = await startTestService(t);
  const { push } = await service.project('timetable');
  await push('Fares and old', pages('fares', 'old'));
  const host = `staging.timetable.localhost:${service.edgePort}`;
  const ask = async (...paths: readonly string[]) => {
    for (const path of paths) await service.page(host, path);
  };
  await ask('/', '/fares', '/fares.html', '/nowhere', '/nowhere?from=mail', '/old');
  // What the service itself looks at, and what nobody's environment answers, is no visit.
  await service.page(`build-1.timetable.${service.deps.config.artifactsBase}`, '/');
  await service.page('nobody.localhost', '/');
  const told = (requests: number, environment = 'staging') =>
    until('the edge has told', async () => {
      const seen = await visitsOf(service, environment);
      return (seen.live?.requests ?? 0) >= requests && seen;
    });
  const first = await told(6);
  const { live } = first;
  assert.deepEqual(
    [live?.requests, live?.found, live?.redirected, live?.missed, live?.failed, live?.slow],
    [6, 3, 1, 2, 0, 0],
  );
  assert.ok((live?.bytes ?? 0) > 30);
  assert.deepEqual(
    first.misses.map(({ path, times, answeredBefore }) => [path, times, answeredBefore]),
    [['/nowhere', 2, false]],
  );
  assert.deepEqual(
    [first.before, first.minutes.reduce((sum, one) => sum + one.requests, 0)],
    [null, 6],
  );

  // Without the page, those who had its address do not find it: that is told first.
  await push('Without the old page', pages('fares'));
  await ask('/nowhere', '/nowhere', '/old', '/fares');
  const second = await told(4);
  assert.deepEqual(
    second.misses.map(({ path, times, answeredBefore }) => [path, times, answeredBefore]),
    [
      ['/old', 1, true],
      ['/nowhere', 2, false],
    ],
  );
  assert.deepEqual(
    [second.before?.requests, second.before?.deploy, second.live?.deploy],
    [6, 1, 2],
  );
  const lane = await service.environmentOf('timetable', 'staging');
  assert.equal('minutes' in lane && Array.isArray(lane.minutes), true);
  // A reload of the edge doubles nothing and loses nothing that was told.
  await service.stopEdge();
  await service.startEdge();
  await ask('/');
  assert.equal((await told(5)).live?.requests, 5);
});

const [first, second] = [
  '019aabce-0000-7000-8000-000000000001',
  '019aabce-0000-7000-8000-000000000002',
];

test('a batch that is told twice counts once, and one of an edge that is no more counts not at all', async (t) => {
  const service = await startTestService(t, { roles: ['runner'] });
  const { push } = await service.project('timetable');
  await push('One', pages());
  const headers = headersOfRole(service.environment.VAQUERO_EDGE_TOKEN ?? '');
  const edge = makeClient({ address: service.address, headers });
  const stream = new AbortController();
  t.after(() => stream.abort());
  await fetch(`${service.address}/role/orders?instance=${first}&revision=0`, {
    headers,
    signal: stream.signal,
  });
  const from = (Math.floor(Date.now() / 60_000) * 60_000) as Instant;
  const beat = (number: number, more: object = {}, instance = first) =>
    edge.call(roleRoutes.edgeBeatRoute, {
      body: {
        instance,
        revision: 0,
        figures: {
          number,
          rows: [
            {
              ...{ project: 'timetable', environment: 'staging', deploy: 1, from },
              ...{ requests: 3, bytes: 9, found: 1, redirected: 0, missed: 2, failed: 0, slow: 0 },
              misses: [{ path: '/x', times: 2 }],
              ...more,
            },
          ],
        },
      },
    });
  const counted = async () => {
    const [[row]] = (await service.deps.db.execute(
      sql`SELECT SUM(requests) AS requests, COUNT(*) AS spans FROM visits`,
    )) as unknown as [[{ requests: string | null; spans: number }]];
    return [Number(row.requests), row.spans];
  };
  await Promise.all([beat(1), beat(1), beat(1)]);
  assert.deepEqual(await counted(), [9, 3], 'a minute, an hour and a day');
  await beat(1);
  assert.deepEqual(await counted(), [9, 3]);
  await beat(2);
  assert.deepEqual(await counted(), [18, 3]);
  await beat(3, {}, second);
  assert.deepEqual(await counted(), [18, 3]);
  await beat(3, { project: 'nobodys' });
  assert.deepEqual(await counted(), [18, 3]);
  // A scan of thousands of paths pushes out none that is known, and does not grow without end.
  for (let number = 4; number < 12; number += 1)
    await beat(number, {
      misses: Array.from({ length: 100 }, (_, n) => ({ path: `/scan/${number}/${n}`, times: 1 })),
    });
  await beat(12);
  const [[kept]] = (await service.deps.db.execute(
    sql`SELECT COUNT(*) AS paths, MAX(times) AS most FROM missed_paths`,
  )) as unknown as [[{ paths: number; most: number }]];
  assert.deepEqual([kept.paths, Number(kept.most)], [500, 6]);
});
