import assert from 'node:assert/strict';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import test from 'node:test';
import { auditRoutes, buildRoutes, environmentRoutes } from '@vaquero/contracts';
import { until } from '../support/place.ts';
import { buildIs, serves, startInstallation } from '../support/processes.ts';
import { askEdge } from '../support/service.ts';
import { recipeOf, writesPage } from '../support/working-copy.ts';

const params = { project: 'timetable' };

test('kill -9 of the runner during a build: the build is taken up again and ends once', async (t) => {
  const here = await startInstallation(t);
  // The first attempt waits long enough to be killed; the marker outside the tree tells that it runs.
  await here.copy.commit('Slow', {
    'vaquero.yaml': recipeOf(`echo begun; sleep 3.0171; ${writesPage('slow')}`),
  });
  assert.ok((await here.copy.push(here.remote)).ok);
  await until('the step runs', async () => {
    const build = await here.client.call(buildRoutes.showBuildRoute, {
      params: { ...params, build: 1 },
    });
    return build.steps.some((step) => step.name === 'pages' && step.state === 'running');
  });
  await here.kill('runner');
  // What it had mounted for the build went with it: nothing of it is left on the machine.
  assert.ok(!readFileSync('/proc/self/mountinfo', 'utf8').includes(here.state));
  const build = await buildIs(here.client, 1, 'passed');
  assert.equal(build.attempts, 2);
  await serves(here.client, 'staging', 1);
  const { entries } = await here.client.call(auditRoutes.auditRoute, {
    params,
    query: { limit: 100 },
  });
  const kinds = entries.map((entry) => entry.kind);
  assert.deepEqual(
    ['attempt.lost', 'build.passed', 'build.failed', 'environment.automatic'].map(
      (kind) => kinds.filter((one) => one === kind).length,
    ),
    [1, 1, 0, 1],
  );
  // Nothing of the killed attempt goes on.
  const left = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .filter((pid) => {
      try {
        return readFileSync(`/proc/${pid}/cmdline`, 'utf8').startsWith('sleep\x003.0171');
      } catch {
        return false; // Ended while we looked.
      }
    });
  assert.deepEqual(left, []);
});

test('kill -9 of the api during a build and around moves: one result for each build, ledger and edge agree', async (t) => {
  const here = await startInstallation(t);
  await here.copy.commit('One', { 'vaquero.yaml': recipeOf(`sleep 1; ${writesPage('one')}`) });
  assert.ok((await here.copy.push(here.remote)).ok);
  await until('the step runs', async () => {
    const build = await here.client.call(buildRoutes.showBuildRoute, {
      params: { ...params, build: 1 },
    });
    return build.steps.some((step) => step.name === 'pages');
  });
  await here.kill('api');
  await buildIs(here.client, 1, 'passed');
  const staging = await serves(here.client, 'staging', 1);
  // Killed at whatever instant of a promotion it happens to be: the call fails or not, the ledger decides.
  const promotion = here.client
    .call(environmentRoutes.promoteRoute, {
      params: { ...params, environment: 'production' },
      body: {
        from: 'staging',
        artifact: staging.serves?.artifact ?? assert.fail(),
        seen: { generation: 0, artifact: null },
      },
    })
    .then(
      () => 'answered',
      () => 'cut off',
    );
  await new Promise((resolve) => setTimeout(resolve, Math.random() * 20));
  await here.kill('api');
  await promotion;
  const lanes = await here.client.call(environmentRoutes.lanesRoute, {
    params,
    query: { days: 1 },
  });
  const production = lanes.environments[0] ?? assert.fail();
  const page = () => askEdge(here.edgePort, `timetable.localhost:${here.edgePort}`, '/');
  if (production.serves === null) assert.equal((await page()).status, 503);
  else {
    await serves(here.client, 'production', 1);
    await until(
      'the edge agrees with the ledger',
      async () => (await page()).headers['vaquero-deploy'] === '1',
    );
  }
  const { entries } = await here.client.call(auditRoutes.auditRoute, {
    params,
    query: { limit: 100 },
  });
  assert.equal(entries.filter((entry) => entry.kind === 'build.passed').length, 1);
  assert.equal(
    entries.filter((entry) => entry.kind === 'environment.promoted').length,
    production.serves === null ? 0 : 1,
  );
});

test('kill -9 of the api between commit and confirmation: the deploy is confirmed when it is back', async (t) => {
  const here = await startInstallation(t);
  await here.copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  assert.ok((await here.copy.push(here.remote)).ok);
  const staging = await serves(here.client, 'staging', 1);
  // A stopped edge cannot confirm: the api waits between commit and confirmation, and dies there.
  const edge = here.supervision.pids().edge ?? 0;
  const promotion = here.client
    .call(environmentRoutes.promoteRoute, {
      params: { ...params, environment: 'production' },
      body: {
        from: 'staging',
        artifact: staging.serves?.artifact ?? assert.fail(),
        seen: { generation: 0, artifact: null },
      },
    })
    .then(
      () => 'answered',
      () => 'cut off',
    );
  const committed = async () => {
    const lanes = await here.client.call(environmentRoutes.lanesRoute, {
      params,
      query: { days: 1 },
    });
    return lanes.environments[0]?.serves;
  };
  await until('the edge has prepared or the move is committed', async () => {
    process.kill(edge, 'SIGSTOP');
    const isCommitted = (await committed()) != null;
    if (!isCommitted) process.kill(edge, 'SIGCONT');
    return isCommitted;
  });
  process.kill(here.supervision.pids().api ?? 0, 'SIGKILL');
  process.kill(edge, 'SIGCONT');
  await promotion;
  await serves(here.client, 'production', 1);
  assert.equal(
    (await askEdge(here.edgePort, `timetable.localhost:${here.edgePort}`, '/')).text,
    '<h1>one</h1>',
  );
});

test('kill -9 of the edge during a promotion: never called confirmed until the edge is back and agrees', async (t) => {
  const here = await startInstallation(t);
  await here.copy.commit('One', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  assert.ok((await here.copy.push(here.remote)).ok);
  const staging = await serves(here.client, 'staging', 1);
  const promotion = here.client.call(environmentRoutes.promoteRoute, {
    params: { ...params, environment: 'production' },
    body: {
      from: 'staging',
      artifact: staging.serves?.artifact ?? assert.fail(),
      seen: { generation: 0, artifact: null },
    },
  });
  await here.kill('edge');
  const reply = await promotion;
  assert.ok(reply.confirmed || reply.unheard.length > 0);
  await serves(here.client, 'production', 1);
  const page = await askEdge(here.edgePort, `timetable.localhost:${here.edgePort}`, '/');
  assert.deepEqual([page.status, page.headers['vaquero-deploy']], [200, '1']);
});

test('everything stops cleanly: no process of it is left', async (t) => {
  const here = await startInstallation(t);
  const pids = Object.values(here.supervision.pids());
  await here.supervision.stop();
  for (const pid of pids) assert.throws(() => process.kill(pid ?? 0, 0), { code: 'ESRCH' });
  const slots = join(here.state, 'slots');
  assert.ok(readdirSync(slots).length > 0);
});
