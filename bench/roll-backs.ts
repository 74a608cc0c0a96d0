import { execFileSync } from 'node:child_process';
import { setPriority } from 'node:os';
import { setTimeout as pause } from 'node:timers/promises';
import { environmentRoutes, peopleRoutes } from '@vaquero/contracts';
import { type Checking, startChecking } from './checking-client.ts';
import type { Row } from './commit-to-live.ts';
import type { Installation } from './installation.ts';
import { median } from './timing.ts';

const rollbacks = 200;
/** Rollbacks before those that count: a fresh process compiles its code in its first calls. */
const warmUps = 10;
const params = { project: 'timetable', environment: 'production' };

/**
 * 200 rollbacks there and back while a checking client keeps 32 connections busy at half of the edge's own
 * rate and compares each body with the artifact that the header names. The floor is the edge's full rate.
 */
export async function benchRollbacks(here: Installation): Promise<readonly Row[]> {
  const host = `timetable.localhost:${here.edgePort}`;
  await promoteTwice(here);
  // The figures before this one made tens of thousands of files: their way to the disk is not what is measured.
  execFileSync('sync');
  const full = await fullRate(here.edgePort, host);
  const times: number[] = [];
  const acts: { prepare: number; commit: number; confirm: number }[] = [];
  const checking = startChecking({ port: here.edgePort, host, perSecond: full.perSecond / 2 });
  const seen = async () => {
    const lanes = await here.client.call(environmentRoutes.lanesRoute, {
      params: { project: 'timetable' },
      query: { days: 1 },
    });
    return lanes.environments[0];
  };
  let now = await seen();
  const builds = [now?.serves?.build ?? 0, now?.wayBack?.build ?? 0];
  let unconfirmed = 0;
  // Whoever rolls back sits elsewhere: what times the calls must neither wait in line behind the checking client
  // nor, between two of them, clear away what the figures before this one left in its memory.
  globalThis.gc?.();
  if (process.getuid?.() === 0) setPriority(process.pid, -10);
  for (let round = -warmUps; round < rollbacks; round += 1) {
    const to = builds[(round + warmUps + 1) % 2] ?? 0;
    const begun = performance.now();
    const reply = await here.client.call(environmentRoutes.rollBackRoute, {
      params,
      body: {
        to: { build: to },
        reason: 'bench',
        seen: { generation: now?.generation ?? 0, artifact: now?.serves?.artifact ?? null },
      },
    });
    if (round >= 0) times.push(performance.now() - begun);
    if (round >= 0 && reply.ms !== null) acts.push(reply.ms);
    if (!reply.confirmed) unconfirmed += 1;
    now = { ...(now ?? never()), generation: reply.generation, serves: reply.deploy };
  }
  const plain = await plainCalls(here);
  if (process.getuid?.() === 0) setPriority(process.pid, 0);
  const checked = await checking.end();
  for (const act of ['prepare', 'commit', 'confirm'] as const)
    process.stderr.write(`  ${act} ${median(acts.map((one) => one[act])).toFixed(1)} ms\n`);
  const slowest = times
    .map((ms, place) => ({ ms, act: acts[place], place }))
    .toSorted((a, b) => b.ms - a.ms)
    .slice(0, 12);
  for (const { ms, act, place } of slowest)
    process.stderr.write(
      `  slow: the ${place + 1}th, ${ms.toFixed(0)} ms, of which ${[act?.prepare, act?.commit, act?.confirm].map((one) => one?.toFixed(0)).join(', ')}\n`,
    );
  const [p99, p50] = [p99Of(times), median(times)];
  return [
    {
      what: `${rollbacks} rollbacks, p99 of the call (p50 ${p50.toFixed(0)} ms)`,
      ours: `${p99.toFixed(0)} ms`,
      floor: `${p99Of(plain).toFixed(0)} ms: a call that reads one row, at ${checked.perSecond.toFixed(0)} of ${full.perSecond.toFixed(0)} requests/s`,
      ratio: (p99 / p99Of(plain)).toFixed(1),
      wanted: '< 50 ms',
      good: p99 < 50 && unconfirmed === 0,
    },
    {
      what: 'answers failed or mixed meanwhile',
      ours: `${checked.failed} failed, ${checked.mixed} mixed`,
      floor: `of ${checked.answers}`,
      ratio: '',
      wanted: 'none',
      good: checked.failed === 0 && checked.mixed === 0,
    },
  ];
}

/** What calls take under the same load that do next to nothing: so long this machine makes anything wait. */
async function plainCalls(here: Installation): Promise<readonly number[]> {
  const times: number[] = [];
  for (let round = 0; round < rollbacks; round += 1) {
    const begun = performance.now();
    await here.client.call(peopleRoutes.meRoute, {});
    times.push(performance.now() - begun);
  }
  return times;
}

function p99Of(times: readonly number[]): number {
  return times.toSorted((a, b) => a - b)[Math.floor(times.length * 0.99) - 1] ?? 0;
}

/** What the edge carries when the checking client asks as fast as it can, for two seconds. */
async function fullRate(port: number, host: string): ReturnType<Checking['end']> {
  const flatOut = startChecking({ port, host, perSecond: null });
  await pause(2_000);
  return flatOut.end();
}

function never(): never {
  throw new Error('production serves nothing');
}

async function promoteTwice(here: Installation): Promise<void> {
  for (let round = 0; round < 2; round += 1) {
    if (round === 1) await anotherBuild(here);
    const lanes = await here.client.call(environmentRoutes.lanesRoute, {
      params: { project: 'timetable' },
      query: { days: 1 },
    });
    const [production, staging] = lanes.environments;
    if (production === undefined || staging?.serves == null) return never();
    await here.client.call(environmentRoutes.promoteRoute, {
      params,
      body: {
        from: 'staging',
        artifact: staging.serves.artifact,
        seen: { generation: production.generation, artifact: production.serves?.artifact ?? null },
      },
    });
  }
}

async function anotherBuild(here: Installation): Promise<void> {
  const copy = `${here.state}/bench-copy`;
  execFileSync(
    'sh',
    [
      '-c',
      `echo '<h1>another</h1>' > src/index.html && git -c user.name=b -c user.email=b@example commit -qam another && git push -q ${here.remote} main`,
    ],
    { cwd: copy, stdio: 'ignore' },
  );
  for (;;) {
    const lanes = await here.client.call(environmentRoutes.lanesRoute, {
      params: { project: 'timetable' },
      query: { days: 1 },
    });
    if (lanes.environments[1]?.serves?.subject === 'another') return;
    await pause(50);
  }
}
