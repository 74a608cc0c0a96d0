import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import type { AttemptGiven, StepReport } from '@vaquero/contracts';
import {
  type BuildFailure,
  type Instant,
  orderSteps,
  type Recipe,
  type RecipeStep,
} from '@vaquero/core';
import { findSite } from '../artifacts/find-site.ts';
import type { FileStore } from '../artifacts/store-files.ts';
import { listFiles } from '../artifacts/walk-output.ts';
import type { Limits } from '../config.ts';
import { type Ended, runBehindWalls } from '../walls/run-behind-walls.ts';
import { runWithoutWalls } from '../walls/run-without-walls.ts';
import { makeWorkplace, type Slot, type Workplace } from '../walls/slot.ts';
import type { UsedWorkplaces } from '../walls/used-workplaces.ts';
import type { AttemptClient } from './attempt-client.ts';
import { type LogSender, makeLogSender } from './log-sender.ts';

/** What running a build takes. */
export interface BuildRun {
  readonly given: AttemptGiven;
  readonly api: AttemptClient;
  readonly slot: Slot;
  readonly limits: Limits;
  readonly withoutWalls: boolean;
  readonly npmrc: string;
  readonly store: FileStore;
  readonly used: UsedWorkplaces;
  readonly clock: () => Instant;
  readonly signal: AbortSignal;
  /** Called when the api cannot be told the log: the attempt is given up. */
  readonly giveUp: (error: unknown) => void;
}

interface At extends BuildRun {
  readonly workplace: Workplace;
  readonly log: LogSender;
  place: number;
}

/**
 * Runs one attempt from the source to the proposed artifact; whatever happens, the api is told once how
 * it ended. Throws only when the api says that the attempt is over or stays away.
 */
export async function runBuild(run: BuildRun): Promise<void> {
  const log = makeLogSender(run.api.log, run.limits.logBytes, run.giveUp);
  const workplace = await makeWorkplace(run.slot, run.given.attempt);
  const at: At = { ...run, workplace, log, place: 0 };
  try {
    const failure = await buildAndPropose(at);
    if (failure === null) return;
    await log.flush();
    await run.api.fail(failure);
  } finally {
    await run.used.take(workplace.directory, run.given.attempt);
  }
}

async function buildAndPropose(at: At): Promise<BuildFailure | null> {
  const recipe: Recipe = at.given.recipe;
  const fetched = await step(at, 'fetch', `the tree of ${at.given.commit.slice(0, 12)}`, () =>
    fetchSource(at),
  );
  if (fetched !== null) return fetched;
  // Only an open folder asks which files the build made and which it found.
  const isOpen = recipe.serve.site === null;
  const before = new Set(isOpen ? await listFiles(at.workplace.tree, 200_000) : []);
  const ordered = orderSteps(recipe.steps);
  if ('faults' in ordered) return { reason: 'recipe-invalid', file: 'the recipe', faults: [] };
  for (const [place, one] of ordered.order.entries()) {
    const failure = await step(at, one.name, one.run.join(' && '), () => runStep(at, one));
    if (failure === null) continue;
    await skip(at, ordered.order.slice(place + 1));
    return failure;
  }
  return step(at, 'store', 'walk, hash and keep the output', () => storeOutput(at, recipe, before));
}

/** Runs one part of the build and reports its beginning and end. */
async function step(
  at: At,
  name: string,
  says: string,
  act: () => Promise<BuildFailure | null>,
): Promise<BuildFailure | null> {
  const report = (state: StepReport['state'], logFrom: number | null): Promise<void> =>
    at.api.steps([{ name, place, says: says.slice(0, 2000), state, at: at.clock(), logFrom }]);
  const place = at.place;
  at.place += 1;
  const logFrom = at.log.length();
  await report('running', logFrom);
  if (name === 'store') return act();
  const failure = await act();
  await report(failure === null ? 'passed' : 'failed', logFrom);
  return failure;
}

async function skip(at: At, steps: readonly RecipeStep[]): Promise<void> {
  const reports = steps.map(
    (one, place): StepReport => ({
      name: one.name,
      place: at.place + place,
      says: one.run.join(' && '),
      state: 'skipped',
      at: at.clock(),
      logFrom: null,
    }),
  );
  if (reports.length > 0) await at.api.steps(reports);
}

async function fetchSource(at: At): Promise<BuildFailure | null> {
  try {
    const response = await at.api.source(at.signal);
    if (response.body === null) return { reason: 'source', why: 'the api sent no tree' };
    // Unpacked behind the walls too, under the build's own uid: a tree made to harm a tar program harms nobody.
    const ended = await behind(
      at,
      'none',
      ['/usr/bin/tar', '-x', '--no-same-owner', '-f', '-'],
      Readable.fromWeb(response.body as ReadableStream),
    );
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

/** Says each command before it runs, and ends at the first that fails. */
const inTurn =
  'for command in "$@"; do printf "%s\\n" "$command"; sh -c "$command" || exit $?; done';

async function runStep(at: At, one: RecipeStep): Promise<BuildFailure | null> {
  const begun = at.clock();
  const ended = await behind(at, one.network, ['/bin/sh', '-c', inTurn, 'sh', ...one.run]);
  if (ended.ok) return null;
  const seconds = ((at.clock() - begun) / 1000).toFixed(1);
  at.log.say(
    Buffer.from(
      `step ${one.name} ended after ${seconds} s: ${ended.end.kind === 'exit' ? `exit code ${ended.end.exitCode}` : ended.end.kind}\n`,
    ),
  );
  return {
    reason: 'step',
    step: one.name,
    end: ended.end,
    atProcessLimit: ended.sawProcessLimit && ended.end.kind === 'exit',
  };
}

function behind(
  at: At,
  network: 'none' | 'out',
  command: readonly string[],
  input?: Readable,
): Promise<Ended> {
  const run = at.withoutWalls ? runWithoutWalls : runBehindWalls;
  return run(
    {
      slot: at.slot,
      workplace: at.workplace,
      limits: at.limits,
      network,
      environment: environmentOf(at.given),
      command,
    },
    {
      npmrc: at.npmrc,
      signal: at.signal,
      hear: at.log.say,
      ...(input === undefined ? {} : { input }),
    },
  );
}

/** No commit, ref or number is in a build's environment: what a step could bake in would make equal inputs differ. */
function environmentOf(given: AttemptGiven): Readonly<Record<string, string>> {
  return {
    PATH: '/opt/node/bin:/usr/local/bin:/usr/bin:/bin',
    HOME: '/home/build',
    TMPDIR: '/tmp',
    LANG: 'C.UTF-8',
    LC_ALL: 'C.UTF-8',
    TZ: 'UTC',
    CI: 'true',
    VAQUERO_PROJECT: given.project,
    NPM_CONFIG_GLOBALCONFIG: '/etc/npmrc',
    SSL_CERT_FILE: '/etc/ssl/certs/ca-certificates.crt',
    ...(process.env.VAQUERO_MACHINE_CERTIFICATES === undefined
      ? {}
      : { NPM_CONFIG_CAFILE: '/etc/ssl/certs/ca-certificates.crt' }),
  };
}

async function storeOutput(
  at: At,
  recipe: Recipe,
  before: ReadonlySet<string>,
): Promise<BuildFailure | null> {
  const place = at.place - 1;
  const report = (state: StepReport['state'], says: string): Promise<void> =>
    at.api.steps([{ name: 'store', place, says, state, at: at.clock(), logFrom: null }]);
  const upload = await at.api.openUpload();
  const found = await findSite(at.workplace.tree, recipe, before);
  if (!found.ok) {
    await report('failed', 'walk, hash and keep the output');
    return found.failure;
  }
  try {
    const files = await at.store.store(found.files);
    await Promise.all([at.log.flush(), report('passed', `${files.length} files of ${found.site}`)]);
    await at.api.propose({
      upload,
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
