import assert from 'node:assert/strict';
import { spawn } from 'node:child_process';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import test from 'node:test';
import {
  buildRoutes,
  environmentRoutes,
  makeClient,
  peopleRoutes,
  previewRoutes,
  pullRequestRoutes,
} from '@vaquero/contracts';
import { execa } from 'execa';
import { freePort, until } from './support/place.ts';
import { askEdge } from './support/service.ts';

const bundle = new URL('../dist/demo.mjs', import.meta.url).pathname;

test('the demo makes three weeks of history with the real service, is one command, and ends cleanly', {
  timeout: 300_000,
}, async (t) => {
  const state = mkdtempSync(join(tmpdir(), 'vaquero-demo-'));
  chmodSync(state, 0o711);
  t.after(() => rmSync(state, { recursive: true, force: true }));
  const [port, edgePort, healthPort] = [await freePort(), await freePort(), await freePort()];
  const environment = {
    PATH: process.env.PATH ?? '',
    VAQUERO_STATE: state,
    VAQUERO_PORT: String(port),
    VAQUERO_EDGE_PORT: String(edgePort),
    VAQUERO_HEALTH_PORT: String(healthPort),
    VAQUERO_RUNNER_UIDS: '193000-193099',
  };
  const start = async () => {
    const demo = spawn(process.execPath, [bundle], {
      env: environment,
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    t.after(() => demo.kill('SIGKILL'));
    const ended = new Promise<number | null>((resolve) => demo.once('exit', resolve));
    let said = '';
    for (const stream of [demo.stdout, demo.stderr])
      stream.on('data', (bytes: Buffer) => {
        said += bytes.toString();
      });
    const begun = performance.now();
    await until(
      'the demo says where to look',
      () => said.includes('Five commands to try next') || demo.exitCode !== null,
      { withinMs: 200_000, seen: () => said },
    );
    return { demo, ended, said, tookMs: performance.now() - begun };
  };

  const first = await start();
  assert.match(first.said, /history made: \d+\.\d s/);
  const password = /with the password (\S+)/.exec(first.said)?.[1] ?? assert.fail(first.said);
  const address = `http://127.0.0.1:${port}`;
  const token = await makeClient({ address }).call(peopleRoutes.signInForTokenRoute, {
    body: { name: 'jonas', password, token: 'x' },
  });
  const client = makeClient({ address, headers: { authorization: `Bearer ${token.secret}` } });

  // Some forty builds, two of them failed, over three weeks, with a rollback among the deploys.
  const { builds } = await client.call(buildRoutes.listBuildsRoute, {
    params: { project: 'timetable' },
    query: { limit: 100 },
  });
  assert.ok(builds.length >= 18 && builds.length <= 50, `${builds.length} builds`);
  assert.deepEqual(
    builds.filter((build) => build.state === 'failed').map((build) => build.commit.subject),
    ['Bicycles travel free all year', 'Merrow Point is called Merrow Quay'],
  );
  const subjects = (state: string) =>
    builds.filter((build) => build.state === state).map((build) => build.commit.subject);
  assert.deepEqual(subjects('cancelled'), ['Wait for the tide tables before building']);
  assert.deepEqual(
    [...new Set(subjects('reused'))],
    [
      'Merge try/orrin-berth',
      'Build without the tide tables',
      'The stronger table lines back, after all',
    ],
  );
  assert.deepEqual(
    builds.filter((build) => build.marks.includes('flaky')).map((build) => build.commit.subject),
    ['Each step says what it reads and writes'],
  );
  const shown = await Promise.all(
    builds.map((build) =>
      client.call(buildRoutes.showBuildRoute, {
        params: { project: 'timetable', build: build.number },
      }),
    ),
  );
  const steps = shown.flatMap((build) => build.steps);
  assert.equal(steps.filter((step) => step.state === 'flaky').length, 1);
  assert.ok(steps.filter((step) => step.state === 'reused').length > 5);
  const failed = shown.findLast((build) => build.state === 'failed');
  assert.match(failed?.tellingLine?.text ?? '', /merrow-point/);
  assert.equal(
    failed?.evidence.tests[0]?.failures[0]?.name,
    'every route joins two harbours that exist',
  );
  const days = (Date.now() - (builds.at(-1)?.queuedAt ?? 0)) / 86_400_000;
  assert.ok(days > 20 && days < 23, `${days} days`);
  const history = await client.call(environmentRoutes.historyRoute, {
    params: { project: 'timetable', environment: 'production' },
    query: { limit: 50 },
  });
  assert.equal(history.deploys.filter((deploy) => deploy.kind === 'rolled-back').length, 1);
  assert.equal(history.undone, 1);
  assert.ok(
    history.deploys.every(
      (deploy) => deploy.confirmedAt !== null && deploy.committedAt <= Date.now(),
    ),
  );
  // A family with one that somebody keeps, one that failed, a draft without an environment, and what members say.
  const { previews } = await client.call(previewRoutes.listPreviewsRoute, {
    params: { project: 'timetable' },
  });
  assert.deepEqual(previews.map(({ name, family }) => [name, family.kept?.by ?? null]).toSorted(), [
    ['look-larger-print', 'Petra Quist'],
    ['pr-2', null],
    ['pr-3', null],
  ]);
  const { verdicts } = await client.call(pullRequestRoutes.showPullRequestRoute, {
    params: { project: 'timetable', pullRequest: 'pr-2' },
  });
  assert.deepEqual(
    verdicts.map(({ by, verdict }) => [by, verdict]),
    [
      ['Tomas Revik', 'not-yet'],
      ['Wren Adeyemi', 'looks-right'],
    ],
  );
  const page = await askEdge(edgePort, `timetable.localhost:${edgePort}`, '/');
  assert.match(page.text, /Merrow Point: the pier is closed/);
  assert.equal(
    (await askEdge(edgePort, `timetable.localhost:${edgePort}`, '/timetable/orrin/')).status,
    200,
  );

  const beside = await execa(process.execPath, [bundle], {
    env: environment,
    extendEnv: false,
    reject: false,
  });
  assert.equal(beside.exitCode, 1);
  assert.match(
    beside.stderr,
    /A demo is running already \(process \d+\), at http:\/\/localhost:\d+\.\nNext: /,
  );

  first.demo.kill('SIGINT');
  assert.equal(await first.ended, 0);
  await assert.rejects(fetch(`${address}/health`));

  // The second start finds the history made.
  const second = await start();
  assert.doesNotMatch(second.said, /history made/);
  const again = await client.call(environmentRoutes.historyRoute, {
    params: { project: 'timetable', environment: 'production' },
    query: { limit: 50 },
  });
  assert.equal(again.total, history.total);
  second.demo.kill('SIGTERM');
  assert.equal(await second.ended, 0);
});
