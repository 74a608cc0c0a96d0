import assert from 'node:assert/strict';
import { join } from 'node:path';
import test from 'node:test';
import { setTimeout as pause } from 'node:timers/promises';
import { auditRoutes, buildRoutes, environmentRoutes } from '@vaquero/contracts';
import { applyMigrations, openDatabase } from '@vaquero/service';
import { sql } from 'drizzle-orm';
import { ownDatabase, until } from '../support/place.ts';
import { buildIs, serves, startInstallation } from '../support/processes.ts';
import { askEdge, refusalOf } from '../support/service.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

const params = { project: 'timetable' };
const leaseMs = 10_000;

test('the database goes away and comes back: sites keep serving, calls say so, the build under way ends once', async (t) => {
  const here = await startInstallation(t, { ownServer: true });
  await here.copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  assert.ok((await here.copy.push(here.remote)).ok);
  await serves(here.client, 'staging', 1);
  await here.copy.commit('Two', { 'vaquero.yaml': recipeOf(`sleep 2; ${writesPage('two')}`) });
  assert.ok((await here.copy.push(here.remote)).ok);
  await until('the second build runs', async () =>
    (
      await here.client.call(buildRoutes.showBuildRoute, { params: { ...params, build: 2 } })
    ).steps.some((step) => step.name === 'pages'),
  );

  const staging = () => askEdge(here.edgePort, `staging.timetable.localhost:${here.edgePort}`, '/');
  const pid = here.supervision.mariadbPid() ?? assert.fail('no MariaDB of its own');
  process.kill(pid, 'SIGSTOP');
  assert.equal((await staging()).text, '<h1>one</h1>');
  process.kill(pid, 'SIGKILL');
  const problem = await until('the call is refused', () =>
    refusalOf(here.client.call(environmentRoutes.liveRoute)),
  );
  assert.equal(problem.code, 'database-away');
  assert.match(problem.detail, /the database does not answer. Sites keep serving/);
  assert.equal((await staging()).text, '<h1>one</h1>');

  // It is started again by itself; nothing that was under way is lost or done twice.
  await buildIs(here.client, 2, 'passed', 90_000);
  await serves(here.client, 'staging', 2);
  assert.equal((await staging()).text, '<h1>two</h1>');
  const { entries } = await here.client.call(auditRoutes.auditRoute, {
    params,
    query: { limit: 100 },
  });
  assert.equal(entries.filter((entry) => entry.kind === 'build.passed').length, 2);
});

test('a database that stands still for longer than a lease costs no build its attempt', async (t) => {
  const here = await startInstallation(t, { ownServer: true });
  await here.copy.commit('One', { 'vaquero.yaml': recipeOf(`sleep 3; ${writesPage('one')}`) });
  assert.ok((await here.copy.push(here.remote)).ok);
  await until('the build is in its step', async () =>
    (
      await here.client.call(buildRoutes.showBuildRoute, { params: { ...params, build: 1 } })
    ).steps.some((step) => step.name === 'pages' && step.state === 'running'),
  );
  const pid = here.supervision.mariadbPid() ?? assert.fail('no MariaDB of its own');
  process.kill(pid, 'SIGSTOP');
  // Nothing tells that a lease has lapsed while the only clock that counts stands still: this is its length and some.
  await pause(leaseMs + 2_000);
  process.kill(pid, 'SIGCONT');
  await buildIs(here.client, 1, 'passed', 60_000);
  const build = await here.client.call(buildRoutes.showBuildRoute, {
    params: { ...params, build: 1 },
  });
  assert.deepEqual([build.attempts, build.failure], [1, null]);
});

test('migrations: two processes that start at once end with one schema, and positions follow the order of commits', async (t) => {
  const url = await ownDatabase({ empty: true });
  const folder = join(new URL('../..', import.meta.url).pathname, 'packages/service/migrations');
  await Promise.all([
    applyMigrations(url, folder),
    applyMigrations(url, folder),
    applyMigrations(url, folder),
  ]);
  const { db, close } = openDatabase(url);
  t.after(close);
  const [rows] = (await db.execute(sql`SELECT position FROM log_head`)) as unknown as [
    { position: number }[],
  ];
  assert.deepEqual(
    rows.map((row) => row.position),
    [0],
  );
  const [zone] = (await db.execute(
    sql`SELECT @@session.time_zone AS zone, @@session.tx_isolation AS isolation, @@collation_database AS collation`,
  )) as unknown as [{ zone: string; isolation: string; collation: string }[]];
  assert.deepEqual(
    { ...zone[0] },
    { zone: '+00:00', isolation: 'READ-COMMITTED', collation: 'utf8mb4_nopad_bin' },
  );
});
