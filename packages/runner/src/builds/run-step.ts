import { join } from 'node:path';
import {
  type BuildFailure,
  cleanPath,
  isReusable,
  type RecipeStep,
  type StepEnd,
} from '@vaquero/core';
import type { Output } from '../outputs/output-store.ts';
import type { InTree } from '../sources/in-tree.ts';
import { openStepLayers } from '../sources/step-layers.ts';
import { type Ended, runBehindWalls } from '../walls/run-behind-walls.ts';
import { runWithoutWalls } from '../walls/run-without-walls.ts';
import type { Mount, Sight } from '../walls/wall-arguments.ts';
import type { BuildAt } from './build-at.ts';
import { builtAs } from './built-as.ts';
import { handReports } from './hand-reports.ts';
import { placesIn, type SightFault } from './places.ts';
import { commandOf, helperNotReady } from './step-command.ts';
import { environmentOf } from './step-environment.ts';
import { makeStepLog, type StepLog } from './step-log.ts';
import {
  type Around,
  cacheFault,
  cachesInTree,
  type HandedOn,
  makeOwnFolders,
  ownSight,
  sharedSight,
  writtenPaths,
} from './step-sight.ts';
import { sayThrownAway } from './thrown-away.ts';

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
    const { ended, reports, out } = await tryStep(at, step, log, { before, source, number: tried });
    log.end();
    const tookMs = at.clock() - begun;
    await handReports(at, step, reports, log);
    if (ended.ok) {
      const output = out === null ? null : await at.outputs.take(out);
      return { ok: true, tries: tried, output, tookMs };
    }
    log.say(`step ${step.name} ended after ${(tookMs / 1000).toFixed(1)} s: ${howIn(ended.end)}`);
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

function howIn(end: StepEnd): string {
  if (end.kind === 'exit') return `exit code ${end.exitCode}`;
  return 'why' in end ? end.why : end.kind;
}

interface Tried {
  readonly ended: Ended;
  /** What a command that reads its reports sees. */
  readonly reports: Pick<InTree, 'tree' | 'mounts'>;
  /** The folder of what it wrote, to be handed on; null when it wrote into the shared tree. */
  readonly out: string | null;
}

/** One try of a step: what it runs after, and the commit's tree as steps that say what they read see it. */
interface Try {
  readonly before: readonly HandedOn[];
  readonly source: string;
  readonly number: number;
}

async function tryStep(at: BuildAt, step: RecipeStep, log: StepLog, one: Try): Promise<Tried> {
  const caches = await cacheMounts(at, step);
  const name = `${step.name}-${one.number}`;
  // Where trees are not kept the machine shows no layers.
  const layers =
    at.withoutWalls || at.sources === null
      ? null
      : openStepLayers(at.workplace.directory, name, at.slot.uid);
  const around = { caches, layers };
  try {
    return isReusable(step) && !at.withoutWalls
      ? await tryApart(at, step, log, one, around)
      : await tryTogether(at, step, log, one, around);
  } finally {
    await layers?.close();
  }
}

/** In the tree that all steps share which do not say what they read and write. */
async function tryTogether(
  at: BuildAt,
  step: RecipeStep,
  log: StepLog,
  { before }: Try,
  around: Around,
): Promise<Tried> {
  const handed = at.withoutWalls ? [] : before;
  const sight = cacheFault(step, handed) ?? (await sharedSight(at.workplace, step, handed, around));
  const ended = await behind(at, step, sight, log);
  if ('mounts' in sight) sayThrownAway(step, sight.mounts, null, around.layers, log);
  const tree = { folder: at.workplace.tree, isWritable: false };
  return { ended, reports: { tree }, out: null };
}

/** With what it says it reads, and folders of its own. */
async function tryApart(
  at: BuildAt,
  step: RecipeStep,
  log: StepLog,
  { before, source, number }: Try,
  around: Around,
): Promise<Tried> {
  const own = await makeOwnFolders(at.workplace, at.slot, step, number);
  const writes = writtenPaths(step);
  const places = [...writes, ...before.flatMap((each) => each.writes), ...cachesInTree(step)];
  const { fault } = placesIn(source, places);
  const sight =
    fault ?? cacheFault(step, before) ?? (await ownSight(source, step, before, own, around));
  const ended = await behind(at, step, sight, log);
  if ('mounts' in sight) sayThrownAway(step, sight.mounts, own.under, around.layers, log);
  const mounts = writes.map((path, place) => ({
    from: join(own.out, String(place)),
    at: `/build/${path}`,
    writable: false,
  }));
  return { ended, reports: { tree: null, mounts }, out: own.out };
}

/** A step that cannot be shown what it asks for ends before it begins. */
function notShown({ fault: why, at }: SightFault): Ended {
  return { ok: false, end: { kind: 'paths', why, at }, sawProcessLimit: false };
}

async function cacheMounts(at: BuildAt, step: RecipeStep): Promise<readonly Mount[]> {
  if (at.withoutWalls) return [];
  return Promise.all(
    step.caches.map(async (path) => ({
      from: await at.caches.folder(builtAs(at.given), at.given.circle, path, at.slot),
      at: path.startsWith('~') ? path.replace(/^~/, '/home/build') : `/build/${cleanPath(path)}`,
      writable: true,
    })),
  );
}

async function behind(
  at: BuildAt,
  step: RecipeStep,
  sight: Sight | SightFault,
  log: StepLog,
): Promise<Ended> {
  if ('fault' in sight) return notShown(sight);
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
