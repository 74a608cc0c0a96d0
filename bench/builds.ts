import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { lstatSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { type BuildReply, type BuildRow, buildRoutes, projectRoutes } from '@vaquero/contracts';
import { median, type Row } from './commit-to-live.ts';
import type { Installation } from './installation.ts';
import { trace } from './trace.ts';

const files = 2000;
const rounds = 5;

/** A project of the bench with a working copy. */
interface Workshop {
  readonly name: string;
  readonly copy: string;
  readonly commit: (changed: Readonly<Record<string, string>>) => void;
  readonly push: () => Promise<BuildReply>;
}

async function openWorkshop(here: Installation, name: string): Promise<Workshop> {
  await here.client.call(projectRoutes.makeProjectRoute, {
    body: { name, repository: { kind: 'hosted' } },
  });
  const copy = join(here.state, `copy-${name}`);
  mkdirSync(copy, { recursive: true });
  const git = (...args: string[]): void =>
    void execFileSync('git', ['-c', 'user.name=b', '-c', 'user.email=b@example', ...args], {
      cwd: copy,
      stdio: ['ignore', 'ignore', 'ignore'],
    });
  git('init', '--quiet', '--initial-branch=main');
  let number = 0;
  return {
    name,
    copy,
    commit: (changed) => {
      for (const [path, text] of Object.entries(changed)) {
        mkdirSync(join(copy, path, '..'), { recursive: true });
        writeFileSync(join(copy, path), text);
      }
      git('add', '--all');
      git('commit', '--quiet', '--allow-empty', '--message', 'bench');
    },
    push: async () => {
      git('push', '--quiet', here.remote.replace('timetable.git', `${name}.git`), 'main');
      number += 1;
      return ended(here, name, number);
    },
  };
}

async function ended(here: Installation, project: string, number: number): Promise<BuildReply> {
  for (;;) {
    const build = await here.client
      .call(buildRoutes.showBuildRoute, { params: { project, build: number } })
      .catch(() => null); // The push is not noticed yet.
    if (build?.endedAt != null) return build;
    await pause(25);
  }
}

const siteOf = (word: string): Readonly<Record<string, string>> =>
  Object.fromEntries(
    Array.from({ length: files }, (_, number) => [
      `src/part-${number % 40}/page-${number}.html`,
      `<!doctype html><title>${number}</title>${`<p>sailing ${number} `.repeat(60)}`,
    ]).concat([['src/index.html', `<!doctype html><h1>${word}</h1>`]]),
  );

const took = (build: BuildReply, name: string): number => {
  const step = build.steps.find((one) => one.name === name);
  return (step?.endedAt ?? 0) - (step?.startedAt ?? 0);
};

/** From the commit to the stored and inspected artifact, and the storing of one changed file among 2,000. */
export async function benchStoring(here: Installation, shellMs: number): Promise<readonly Row[]> {
  const shop = await openWorkshop(here, 'harbour-signs');
  shop.commit({
    ...siteOf('first'),
    'vaquero.yaml':
      'steps:\n  pages: {run: cp -r src/. out, reads: [src], writes: out}\nserve: {site: out}\n',
  });
  await shop.push();
  const whole: number[] = [];
  const storing: number[] = [];
  const walking: number[] = [];
  for (let round = 0; round < rounds; round += 1) {
    shop.commit({ 'src/index.html': `<!doctype html><h1>round ${round}</h1>` });
    const build = await shop.push();
    const inspected = build.steps.find((step) => step.name === 'inspect')?.endedAt ?? 0;
    whole.push(inspected - build.queuedAt);
    storing.push(took(build, 'store'));
    walking.push(walkByStamp(join(shop.copy, 'src')));
  }
  await trace(here, shop.name);
  const ratio = median(whole) / shellMs;
  const storeRatio = median(storing) / median(walking);
  return [
    {
      what: `commit to stored and inspected, ${files} files`,
      ours: `${median(whole).toFixed(0)} ms`,
      floor: `${shellMs.toFixed(0)} ms (plain shell)`,
      ratio: ratio.toFixed(2),
      wanted: '≤ 1.4',
      good: ratio <= 1.4,
    },
    {
      what: 'storing when one file changed',
      ours: `${median(storing).toFixed(0)} ms`,
      floor: `${median(walking).toFixed(0)} ms (bare walk by size and time stamp)`,
      ratio: storeRatio.toFixed(2),
      wanted: '≤ 1.5',
      good: storeRatio <= 1.5,
    },
  ];
}

const known = new Map<string, string>();

/** A bare walk: each file by its size and time stamp, and only what those do not know is read and hashed. */
function walkByStamp(root: string): number {
  const begun = performance.now();
  const open = [root];
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    for (const entry of readdirSync(at, { withFileTypes: true })) {
      const path = join(at, entry.name);
      if (entry.isDirectory()) open.push(path);
      else {
        const { size, mtimeMs } = lstatSync(path);
        const stamp = `${size} ${mtimeMs}`;
        if (known.get(path) === stamp) continue;
        createHash('sha256').update(readFileSync(path)).digest('hex');
        known.set(path, stamp);
      }
    }
  }
  return performance.now() - begun;
}

/** A build of 40 steps of which one must run: what it takes beside that step. */
export async function benchGraph(here: Installation): Promise<Row> {
  const shop = await openWorkshop(here, 'ticket-desk');
  const steps = Array.from(
    { length: 40 },
    (_, number) =>
      `  s${number}: {run: cp f${number} o${number}/index.html, reads: f${number}, writes: o${number}${number === 0 ? '' : `, after: s${number - 1}`}}`,
  );
  shop.commit({
    'vaquero.yaml': `steps:\n${steps.join('\n')}\nserve: {site: o39}\n`,
    ...Object.fromEntries(Array.from({ length: 40 }, (_, number) => [`f${number}`, `${number}`])),
  });
  await shop.push();
  const over: number[] = [];
  for (let round = 0; round < rounds; round += 1) {
    shop.commit({ f39: `round ${round}` });
    const build = await shop.push();
    over.push((build.endedAt ?? 0) - build.queuedAt - took(build, 's39'));
  }
  return {
    what: 'a build of 40 steps of which one must run: beside that step',
    ours: `${median(over).toFixed(0)} ms`,
    floor: '',
    ratio: '',
    wanted: '< 300 ms',
    good: median(over) < 300,
  };
}

/** Waits for the newest builds of a project by one call at a time: asking for each would be the load. */
async function allEnded(
  here: Installation,
  project: string,
  count: number,
): Promise<readonly BuildRow[]> {
  for (;;) {
    const { builds } = await here.client.call(buildRoutes.listBuildsRoute, {
      params: { project },
      query: { limit: count },
    });
    if (builds.every((build) => build.endedAt !== null)) return builds;
    await pause(250);
  }
}

/** 200 builds queued, one runner, steps of `true`: how many a second through the whole path. */
export async function benchQueue(here: Installation): Promise<Row> {
  const count = 200;
  const shop = await openWorkshop(here, 'notices');
  shop.commit({
    'vaquero.yaml': 'steps: {nothing: {run: "true"}}\nserve: {site: pages}\n',
    'pages/index.html': '<h1>x</h1>',
  });
  await shop.push();
  const asked = await Promise.all(
    Array.from({ length: count }, () =>
      here.client.call(buildRoutes.buildAgainRoute, {
        params: { project: shop.name },
        body: { build: 1, earlier: 'left' as const },
      }),
    ),
  );
  const first = Math.min(...asked.map((build) => build.queuedAt));
  const builds = await allEnded(here, shop.name, asked.length);
  const last = Math.max(...builds.map((build) => build.endedAt ?? 0));
  const failed = builds.filter((build) => build.state !== 'passed').length;
  const perSecond = (count / (last - first)) * 1000;
  return {
    what: `${count} builds of one step, whole path`,
    ours: `${perSecond.toFixed(1)} a second${failed > 0 ? `, ${failed} failed` : ''}`,
    floor: '',
    ratio: '',
    wanted: '≥ 5 a second',
    good: perSecond >= 5 && failed === 0,
  };
}
