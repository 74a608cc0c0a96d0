import { createHash } from 'node:crypto';
import { Agent, request } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';
import { environmentRoutes } from '@vaquero/contracts';
import type { Row } from './commit-to-live.ts';
import type { Installation } from './installation.ts';

const rollbacks = 200;
/** Rollbacks before those that count: a fresh process compiles its code in its first calls. */
const warmUps = 10;
const connections = 32;
const params = { project: 'timetable', environment: 'production' };

interface Load {
  readonly answers: number;
  readonly failed: number;
  readonly mixed: number;
  readonly perSecond: number;
}

/**
 * 200 rollbacks there and back while a checking client keeps 32 connections busy at half of the edge's own
 * rate and compares each body with the artifact that the header names. The floor is the edge's full rate.
 */
export async function benchRollbacks(here: Installation): Promise<readonly Row[]> {
  const host = `timetable.localhost:${here.edgePort}`;
  await promoteTwice(here);
  const bodies = new Map<string, string>();
  const full = await load(here.edgePort, host, bodies, 2000, Number.POSITIVE_INFINITY, () => false);
  const times: number[] = [];
  let over = false;
  const underWay = load(here.edgePort, host, bodies, 120_000, full.perSecond / 2, () => over);
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
    if (!reply.confirmed) unconfirmed += 1;
    now = { ...(now ?? never()), generation: reply.generation, serves: reply.deploy };
  }
  over = true;
  const checked = await underWay;
  const sorted = times.toSorted((a, b) => a - b);
  const p99 = sorted[Math.floor(sorted.length * 0.99) - 1] ?? 0;
  const p50 = sorted[Math.floor(sorted.length / 2)] ?? 0;
  return [
    {
      what: `${rollbacks} rollbacks, p99 of the call (p50 ${p50.toFixed(0)} ms)`,
      ours: `${p99.toFixed(0)} ms`,
      floor: `at ${checked.perSecond.toFixed(0)} of ${full.perSecond.toFixed(0)} requests/s`,
      ratio: (checked.perSecond / full.perSecond).toFixed(2),
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
  const { execFileSync } = await import('node:child_process');
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

/** Keeps connections busy at a rate, and checks that a body is always the one that its artifact had before. */
async function load(
  port: number,
  host: string,
  bodies: Map<string, string>,
  ms: number,
  perSecond: number,
  over: () => boolean,
): Promise<Load> {
  const agent = new Agent({ keepAlive: true, maxSockets: connections });
  const begun = performance.now();
  const count = { answers: 0, failed: 0, mixed: 0 };
  const one = async (_: unknown, place: number): Promise<void> => {
    // Each connection keeps to its own beat and sleeps between: a client that polled its clock would take the
    // processor from what it measures.
    const beatMs = (connections / perSecond) * 1000;
    for (let turn = 0; performance.now() - begun < ms && !over(); turn += 1) {
      const dueInMs = begun + (turn + place / connections) * beatMs - performance.now();
      if (dueInMs > 1) await pause(dueInMs);
      count.answers += 1;
      const { status, artifact, hash } = await ask(port, host, agent).catch(() => ({
        status: 0,
        artifact: '',
        hash: '',
      }));
      if (status !== 200) count.failed += 1;
      else if ((bodies.get(artifact) ?? hash) !== hash) count.mixed += 1;
      else bodies.set(artifact, hash);
    }
  };
  await Promise.all(Array.from({ length: connections }, one));
  agent.destroy();
  return { ...count, perSecond: (count.answers / (performance.now() - begun)) * 1000 };
}

function ask(
  port: number,
  host: string,
  agent: Agent,
): Promise<{ status: number; artifact: string; hash: string }> {
  return new Promise((resolve, reject) => {
    const asking = request({ host: '127.0.0.1', port, agent, headers: { host } }, (res) => {
      const hash = createHash('sha256');
      res.on('data', (chunk: Buffer) => hash.update(chunk));
      res.on('error', reject);
      res.on('end', () =>
        resolve({
          status: res.statusCode ?? 0,
          artifact: String(res.headers['vaquero-artifact']),
          hash: hash.digest('hex'),
        }),
      );
    });
    asking.on('error', reject);
    asking.end();
  });
}
