import { lstat, readFile, realpath } from 'node:fs/promises';
import { join, sep } from 'node:path';
import {
  type BuildFailure,
  isReusable,
  matchesPath,
  type RecipeStep,
  toolPrograms,
} from '@vaquero/core';
import { listFiles } from '../artifacts/walk-output.ts';
import type { Output } from '../outputs/output-store.ts';
import { type Ended, runBehindWalls } from '../walls/run-behind-walls.ts';
import { runWithoutWalls } from '../walls/run-without-walls.ts';
import type { Mount, Sight } from '../walls/wall-arguments.ts';
import type { BuildAt } from './build-at.ts';
import { commandOf, helperNotReady } from './step-command.ts';
import { makeStepLog, type StepLog } from './step-log.ts';
import {
  type HandedOn,
  handedMounts,
  makeMountPoints,
  makeOwnFolders,
  ownSight,
  writtenPaths,
} from './step-sight.ts';

/** How a step ended, after as many tries as it took. */
export type StepOutcome =
  | {
      readonly ok: true;
      readonly tries: number;
      readonly output: Output | null;
      readonly tookMs: number;
    }
  | { readonly ok: false; readonly tries: number; readonly failure: BuildFailure };

/** Runs one step, again while its recipe gives it tries; its reports are handed over whatever comes of it. */
export async function runStep(
  at: BuildAt,
  step: RecipeStep,
  before: readonly HandedOn[],
  source: string,
): Promise<StepOutcome> {
  const log = makeStepLog(at.log, step.name, at.mask);
  for (let tried = 1; ; tried += 1) {
    const begun = at.clock();
    const { ended, folder, out } = await tryStep(at, step, before, source, log, tried);
    log.end();
    const tookMs = at.clock() - begun;
    await handReports(at, step, folder, log);
    if (ended.ok) {
      const output = out === null ? null : await at.outputs.take(out);
      return { ok: true, tries: tried, output, tookMs };
    }
    const how = ended.end.kind === 'exit' ? `exit code ${ended.end.exitCode}` : ended.end.kind;
    log.say(`step ${step.name} ended after ${(tookMs / 1000).toFixed(1)} s: ${how}`);
    if (tried >= step.tries || at.signal.aborted) {
      return {
        ok: false,
        tries: tried,
        failure: {
          reason: 'step',
          step: step.name,
          end: ended.end,
          atProcessLimit: ended.sawProcessLimit && ended.end.kind === 'exit',
        },
      };
    }
    log.say(`step ${step.name} is tried again: ${tried + 1} of ${step.tries}`);
  }
}

interface Tried {
  readonly ended: Ended;
  /** Where the step's paths lie on the host, by a path of the build. */
  readonly folder: (path: string) => string;
  /** The folder of what it wrote, to be handed on; null when it wrote into the shared tree. */
  readonly out: string | null;
}

async function tryStep(
  at: BuildAt,
  step: RecipeStep,
  before: readonly HandedOn[],
  source: string,
  log: StepLog,
  tried: number,
): Promise<Tried> {
  const caches = await cacheMounts(at, step);
  if (!isReusable(step) || at.withoutWalls) {
    const mounts = at.withoutWalls ? [] : [...handedMounts(before), ...caches];
    await makeMountPoints(
      at.workplace.tree,
      at.slot,
      before.flatMap((each) => each.writes),
    );
    const sight: Sight = {
      tree: 'writable',
      mounts,
      home: at.workplace.home,
      temporary: at.workplace.temporary,
      folder: step.in === null ? '/build' : `/build/${step.in}`,
    };
    const ended = await behind(at, step, sight, log);
    return { ended, folder: (path) => join(at.workplace.tree, path), out: null };
  }
  const own = await makeOwnFolders(at.workplace, at.slot, step, tried);
  const writes = writtenPaths(step);
  await makeMountPoints(source, at.slot, [...writes, ...before.flatMap((each) => each.writes)]);
  const sight = await ownSight(source, step, before, own, caches);
  const handed = before.reduce((sum, each) => sum + each.writes.length, 0);
  const shown = sight.mounts.filter((mount) => !mount.writable).length - handed;
  const ended = shown > mostMounts ? tooMany(shown) : await behind(at, step, sight, log);
  const folder = (path: string): string => {
    const place = writes.findIndex((write) => path === write || path.startsWith(`${write}/`));
    return place === -1
      ? join(source, path)
      : join(own.out, String(place), path.slice((writes[place] ?? '').length));
  };
  return { ended, folder, out: own.out };
}

/** What bubblewrap takes at once, with room for its other arguments (bwrap(1): 9,000 in all, three a mount). */
const mostMounts = 2500;

function tooMany(count: number): Ended {
  const why = `its reads name ${count} files one by one, and at most ${mostMounts} can be shown so: name their folder instead of a pattern`;
  return { ok: false, end: { kind: 'walls', why }, sawProcessLimit: false };
}

async function cacheMounts(at: BuildAt, step: RecipeStep): Promise<readonly Mount[]> {
  if (at.withoutWalls) return [];
  return Promise.all(
    step.caches.map(async (path) => ({
      from: await at.caches.folder(at.given.project, at.given.circle, path, at.slot),
      at: path.replace(/^~/, '/home/build'),
      writable: true,
    })),
  );
}

function behind(at: BuildAt, step: RecipeStep, sight: Sight, log: StepLog): Promise<Ended> {
  const run = at.withoutWalls ? runWithoutWalls : runBehindWalls;
  const helpers = at.given.recipe.beside.filter((helper) => step.beside.includes(helper.name));
  const stepMs = Math.min(step.withinMs ?? at.limits.stepMs, at.limits.stepMs);
  return run(
    {
      slot: at.slot,
      workplace: at.workplace,
      limits: { ...at.limits, stepMs },
      network: step.network,
      anterooms: at.anterooms,
      environment: environmentOf(at, step),
      command: commandOf(step, helpers),
      sight,
    },
    { npmrc: at.npmrc, signal: at.signal, hear: log.hear },
  ).then((ended) =>
    !ended.ok &&
    ended.end.kind === 'exit' &&
    ended.end.exitCode === helperNotReady &&
    helpers.length > 0
      ? {
          ...ended,
          end: { kind: 'helper', helper: helpers.map((helper) => helper.name).join(', ') },
        }
      : ended,
  );
}

/** No commit, ref or number is in a build's environment: what a step could bake in would make equal inputs differ. */
export function environmentOf(
  at: BuildAt,
  step: Pick<RecipeStep, 'sets' | 'given'>,
): Readonly<Record<string, string>> {
  const given = at.given.given.filter(({ name }) => step.given.includes(name));
  const pinned = at.given.recipe.tools.node === null ? '' : `/build/${toolPrograms}:`;
  return {
    PATH: `${pinned}/opt/node/bin:/usr/local/bin:/usr/bin:/bin`,
    HOME: '/home/build',
    TMPDIR: '/tmp',
    LANG: 'C.UTF-8',
    LC_ALL: 'C.UTF-8',
    TZ: 'UTC',
    CI: 'true',
    VAQUERO_PROJECT: at.given.project,
    NPM_CONFIG_GLOBALCONFIG: '/etc/npmrc',
    SSL_CERT_FILE: '/etc/ssl/certs/ca-certificates.crt',
    ...(process.env.VAQUERO_MACHINE_CERTIFICATES === undefined
      ? {}
      : { NPM_CONFIG_CAFILE: '/etc/ssl/certs/ca-certificates.crt' }),
    ...step.sets,
    ...Object.fromEntries(given.map(({ name, value }) => [name, value])),
  };
}

const largestReport = 4 << 20;
const mostReports = 200;

/** Hands over the reports that a step wrote. They are read outside the walls: no link is followed out of the folder. */
async function handReports(
  at: BuildAt,
  step: RecipeStep,
  folder: (path: string) => string,
  log: StepLog,
): Promise<void> {
  for (const kind of ['tests', 'findings'] as const) {
    for (const pattern of step.results[kind]) {
      const base =
        writtenPaths({ ...step, writes: [], results: { tests: [pattern], findings: [] } })[0] ??
        '.';
      const root = await realpath(folder(base)).catch(() => null); // The step did not come to write it.
      const names = root === null ? [] : await listFiles(root, 20_000);
      const paths = names
        .map((name) => ({ name, path: base === '.' ? name : `${base}/${name}` }))
        .filter(({ path }) => matchesPath(pattern, path))
        .slice(0, mostReports);
      if (paths.length === 0) log.say(`step ${step.name} wrote no report ${pattern}`);
      for (const { name, path } of paths)
        await handReport(at, step, kind, join(root ?? '', name), path, log);
    }
  }
}

async function handReport(
  at: BuildAt,
  step: RecipeStep,
  kind: 'tests' | 'findings',
  file: string,
  path: string,
  log: StepLog,
): Promise<void> {
  const { size } = await lstat(file);
  if (size > largestReport) {
    log.say(`the report ${path} is over ${largestReport >> 20} MiB and was not read`);
    return;
  }
  const real = await realpath(file);
  const own = await Promise.all(
    [at.workplace.directory, at.workplace.tree].map((one) => realpath(one)),
  );
  if (!own.some((folder) => real.startsWith(folder + sep))) {
    log.say(`the report ${path} leads out of the build and was not read`);
    return;
  }
  const text = at.mask(await readFile(real, 'utf8'));
  const problem = await at.api.report({ step: step.name, kind, path, text });
  if (problem !== null) log.say(`the report ${path} cannot be read: ${problem}`);
}
