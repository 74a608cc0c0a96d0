import { createHash } from 'node:crypto';
import { lstatSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { type BuildRow, buildRoutes } from '@vaquero/contracts';
import type { Row } from './commit-to-live.ts';
import type { Installation } from './installation.ts';
import { median } from './timing.ts';
import { trace } from './trace.ts';
import { openWorkshop, took } from './workshop.ts';

const files = 2000;
const rounds = 5;
/** Of storing, rounds that count, behind some that warm caches and programs. */
const [storings, warming] = [11, 3];

const siteOf = (word: string): Readonly<Record<string, string>> =>
  Object.fromEntries(
    Array.from({ length: files }, (_, number) => [
      `src/part-${number % 40}/page-${number}.html`,
      `<!doctype html><title>${number}</title>${`<p>sailing ${number} `.repeat(60)}`,
    ]).concat([['src/index.html', `<!doctype html><h1>${word}</h1>`]]),
  );

/** From the commit to the stored and inspected artifact, and the storing of one changed file among 2,000. */
export async function benchStoring(
  here: Installation,
  shell: () => number,
): Promise<readonly Row[]> {
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
  const floor: number[] = [];
  for (let round = -warming; round < storings; round += 1) {
    shop.commit({ 'src/index.html': `<!doctype html><h1>round ${round}</h1>` });
    const build = await shop.push();
    const walked = walkByStamp(join(shop.copy, 'src'));
    const plain = shell();
    if (round < 0) continue;
    floor.push(plain);
    const inspected = build.steps.find((step) => step.name === 'inspect')?.endedAt ?? 0;
    whole.push(inspected - build.queuedAt);
    storing.push(took(build, 'store'));
    walking.push(walked);
  }
  await trace(here, shop.name);
  const shellMs = median(floor);
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

/** The inspection of 10,000 files that nobody has read before, with links between them. */
export async function benchInspection(here: Installation): Promise<Row> {
  const shop = await openWorkshop(here, 'archive');
  const count = 10_000;
  const page = (number: number): string =>
    `<!doctype html><title>${number}</title><link rel="stylesheet" href="/style.css"><p id="top">sailing ${number}</p><a href="/part-${(number + 1) % 100}/page-${(number + 1) % count}.html#top">next</a>${'<p>Lune Quay '.repeat(30)}`;
  shop.commit({
    'vaquero.yaml': 'serve: {site: .}\n',
    'index.html': '<!doctype html><h1>Archive</h1><a href="/part-0/page-0.html">first</a>',
    'style.css': 'p { color: navy }',
    ...Object.fromEntries(
      Array.from({ length: count }, (_, number) => [
        `part-${number % 100}/page-${number}.html`,
        page(number),
      ]),
    ),
  });
  const build = await shop.push();
  const ms = took(build, 'inspect');
  const isClean = build.evidence.inspection?.findings.length === 0;
  return {
    what: `inspection of ${count} new files`,
    ours: `${(ms / 1000).toFixed(1)} s${isClean ? '' : ', findings in a clean site'}`,
    floor: '',
    ratio: '',
    wanted: '< 10 s',
    good: ms < 10_000 && isClean,
  };
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
