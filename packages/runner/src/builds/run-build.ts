import { cp } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import type { StepReport } from '@vaquero/contracts';
import { type BuildFailure, isReusable, type Recipe } from '@vaquero/core';
import { findSite } from '../artifacts/find-site.ts';
import { storeSite } from '../artifacts/store-site.ts';
import { listFiles } from '../artifacts/walk-output.ts';
import { type Ended, runBehindWalls } from '../walls/run-behind-walls.ts';
import { runWithoutWalls } from '../walls/run-without-walls.ts';
import { makeWorkplace } from '../walls/slot.ts';
import { wholeSight } from '../walls/wall-arguments.ts';
import type { BuildAt, BuildRun } from './build-at.ts';
import { makeLogSender } from './log-sender.ts';
import { runGraph } from './run-graph.ts';
import { environmentOf } from './run-step.ts';
import { makeMask } from './secret-mask.ts';
import type { HandedOn } from './step-sight.ts';

/**
 * Runs one attempt from the source to the proposed artifact; whatever happens, the api is told once how
 * it ended. Throws only when the api says that the attempt is over or stays away.
 */
export async function runBuild(run: BuildRun): Promise<void> {
  const log = makeLogSender(run.api.log, run.limits.logBytes, run.giveUp, run.clock);
  const workplace = await makeWorkplace(run.slot, run.given.attempt);
  const mask = makeMask(run.given.given.filter((one) => one.secret));
  const at: BuildAt = { ...run, workplace, log, mask };
  try {
    const failure = await buildAndPropose(at);
    if (failure === null) return;
    await log.flush();
    await run.api.fail(failure);
  } finally {
    await run.used.take(workplace.directory, run.given.attempt);
  }
}

async function buildAndPropose(at: BuildAt): Promise<BuildFailure | null> {
  const { recipe } = at.given;
  const says = `the tree of ${at.given.commit.slice(0, 12)}`;
  await tell(at, { name: 'fetch', place: 0, says, state: 'running', logFrom: at.log.length() });
  const fetched = await fetchSource(at);
  await tell(at, { name: 'fetch', place: 0, says, state: fetched === null ? 'passed' : 'failed' });
  if (fetched !== null) return fetched;
  // Only an open folder asks which files the build made and which it found.
  const isOpen = recipe.serve.site === null;
  const before = new Set(isOpen ? await listFiles(at.workplace.tree, 200_000) : []);
  const { failure, handedOn } = await runGraph(at, await pristineSource(at));
  if (failure !== null) return failure;
  return storeOutput(at, recipe, before, handedOn);
}

async function tell(
  at: BuildAt,
  step: Pick<StepReport, 'name' | 'place' | 'says' | 'state'> & Partial<StepReport>,
): Promise<void> {
  await at.api.steps([
    { after: [], tries: 1, at: at.clock(), logFrom: null, reused: null, ...step },
  ]);
}

/**
 * The commit's tree as steps that say what they read shall see it. Where other steps write into the tree
 * as they please, it is a copy: what those left there would be an input that no key knows of.
 */
async function pristineSource(at: BuildAt): Promise<string> {
  const { steps } = at.given.recipe;
  const isMixed = steps.some(isReusable) && !steps.every(isReusable) && !at.withoutWalls;
  if (!isMixed) return at.workplace.tree;
  const source = join(at.workplace.directory, 'source');
  await cp(at.workplace.tree, source, {
    recursive: true,
    verbatimSymlinks: true,
    preserveTimestamps: true,
  });
  return source;
}

async function fetchSource(at: BuildAt): Promise<BuildFailure | null> {
  try {
    const response = await at.api.source(at.signal);
    if (response.body === null) return { reason: 'source', why: 'the api sent no tree' };
    // Unpacked behind the walls too, under the build's own uid: a tree made to harm a tar program harms nobody.
    const ended = await unpack(at, Readable.fromWeb(response.body as ReadableStream));
    if (ended.ok) return null;
    return {
      reason: 'source',
      why: `the tree could not be unpacked (${ended.end.kind === 'walls' ? ended.end.why : JSON.stringify(ended.end)})`,
    };
  } catch (error) {
    if (at.signal.aborted) throw error;
    return { reason: 'source', why: error instanceof Error ? error.message : String(error) };
  }
}

function unpack(at: BuildAt, input: Readable): Promise<Ended> {
  const run = at.withoutWalls ? runWithoutWalls : runBehindWalls;
  return run(
    {
      slot: at.slot,
      workplace: at.workplace,
      limits: at.limits,
      network: 'none',
      environment: environmentOf(at, { sets: {}, given: [] }),
      command: ['/usr/bin/tar', '-x', '--no-same-owner', '-f', '-'],
      sight: wholeSight(at.workplace),
    },
    { npmrc: at.npmrc, signal: at.signal, input, hear: (bytes) => at.log.say(bytes, 'fetch') },
  );
}

async function storeOutput(
  at: BuildAt,
  recipe: Recipe,
  before: ReadonlySet<string>,
  handedOn: readonly HandedOn[],
): Promise<BuildFailure | null> {
  const place = recipe.steps.length + 1;
  const report = (state: StepReport['state'], says: string): Promise<void> =>
    tell(at, { name: 'store', place, says, state });
  const upload = at.api.openUpload();
  await report('running', 'walk, hash and keep the output');
  const found = await findSite(at.workplace.tree, recipe, before, handedOn);
  if (!found.ok) {
    await Promise.all([upload, report('failed', 'walk, hash and keep the output')]);
    return found.failure;
  }
  try {
    const files = await storeSite(at.store, found);
    await Promise.all([at.log.flush(), report('passed', `${files.length} files of ${found.site}`)]);
    await at.api.propose({
      upload: await upload,
      site: found.site,
      entry: recipe.serve.entry,
      missing: recipe.serve.missing,
      files: [...files],
    });
    return null;
  } catch (error) {
    if (!isOfTheDisk(error)) throw error;
    await report('failed', 'the store could not take the files');
    return { reason: 'store', why: error.message };
  }
}

function isOfTheDisk(error: unknown): error is Error {
  return error instanceof Error && /^(?:ENOSPC|EROFS|EIO|EMLINK|EDQUOT)\b/.test(error.message);
}
