import type { BuildReply } from '@vaquero/contracts';
import {
  type CommitId,
  causeOf,
  installerFor,
  type LockDifference,
  type LockedPackages,
  lockDifferences,
  type SaidLine,
  type StepSituation,
  tellingLine,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { withAuthors } from '../people/authors.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { inFolder } from '../recipes/resolve-recipe.ts';
import { readPackage } from '../recipes/view-commit.ts';
import { commitsIn, directoryOf, fileIn, filesBetween } from '../repositories/bare-repository.ts';
import { latestAttempt } from './attempt-rows.ts';
import type { BuildRecord } from './build-rows.ts';
import { folderOf, lastGoodBefore } from './build-rows.ts';
import { failsElsewhere } from './failure-rows.ts';
import { linesOf } from './find-lines.ts';
import { isLock } from './read-lock.ts';

/** What a failed build says of itself beside how it ended. */
export type Explained = Pick<BuildReply, 'tellingLine' | 'lastGood' | 'explanation'>;

const mostNewLines = 20;

/**
 * Explains a failed build: the first line that names the cause, what changed since the last good build of
 * the ref, what the log says that the good one did not, and whether the same step fails on other refs.
 */
export async function explainFailure(
  deps: Deps,
  project: ProjectRow,
  build: BuildRecord,
): Promise<Explained> {
  const step = build.failure?.reason === 'step' ? build.failure.step : null;
  const good = await lastGoodBefore(deps.db, build);
  const [lines, situation, before, lastGood, elsewhere] = await Promise.all([
    saidBy(deps, build.id, step),
    situationOf(deps, project, build, step),
    good === undefined ? null : saidBy(deps, good.id, step),
    good === undefined ? null : changedSince(deps, project, build, good),
    step === null ? [] : failsElsewhere(deps, build, step),
  ]);
  // The first line of a step is the command itself; it is never the cause.
  const telling = tellingLine(lines.lines.slice(1));
  const cause = telling === undefined ? null : causeOf(telling.text, situation);
  return {
    tellingLine:
      telling === undefined ? null : { number: telling.number, text: telling.text.slice(0, 400) },
    lastGood,
    explanation: {
      cause: cause?.name ?? null,
      next: cause?.next ?? null,
      newLines: before === null ? [] : [...newLines(lines.lines, before.lines)],
      elsewhere: [...elsewhere],
      // A build that never began had no tools that could differ.
      tools:
        before === null || !hasBegun(lines) ? [] : [...toolsThatDiffer(before.tools, lines.tools)],
    },
  };
}

/** How the step that failed came to run: what it may reach, is given, and depends on. */
async function situationOf(
  deps: Deps,
  project: ProjectRow,
  build: BuildRecord,
  name: string | null,
): Promise<StepSituation | undefined> {
  const recipe = build.recipe?.recipe;
  const step = recipe?.steps.find((one) => one.name === name);
  if (recipe === undefined || step === undefined) return undefined;
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const own = { folder: folderOf(project, build) };
  const path = inFolder(own, step.in === null ? 'package.json' : `${step.in}/package.json`);
  const text = await fileIn(directory, build.commitId as CommitId, path, 1 << 20);
  const manager = installerFor(recipe, step.name);
  return {
    network: step.network,
    shutInBy: build.aim?.shutInBy ?? null,
    given: step.given,
    dependencies: readPackage(text ?? '')?.dependencies ?? [],
    isInstalled: manager !== null,
    manager,
  };
}

interface Said {
  readonly lines: readonly SaidLine[];
  readonly tools: Readonly<Record<string, string>>;
}

function hasBegun({ tools }: Said): boolean {
  return Object.keys(tools).length > 0;
}

async function saidBy(deps: Deps, buildId: string, step: string | null): Promise<Said> {
  const attempt = await latestAttempt(deps.db, buildId);
  if (attempt === undefined || step === null) return { lines: [], tools: attempt?.tools ?? {} };
  const lines = await linesOf(deps.db, attempt.id);
  return { lines: lines.filter((line) => line.step === step), tools: attempt.tools ?? {} };
}

/** Lines that the good build did not say; figures in them, which differ from run to run, are left out of it. */
function newLines(
  lines: readonly SaidLine[],
  before: readonly SaidLine[],
): readonly { number: number; text: string }[] {
  const plain = (text: string): string => text.replace(/\d+/g, '0');
  const known = new Set(before.map((line) => plain(line.text)));
  return lines
    .filter((line) => line.text.trim() !== '' && !known.has(plain(line.text)))
    .slice(0, mostNewLines)
    .map(({ number, text }) => ({ number, text: text.slice(0, 400) }));
}

function toolsThatDiffer(
  before: Readonly<Record<string, string>>,
  now: Readonly<Record<string, string>>,
): readonly { name: string; before: string; now: string }[] {
  return [...new Set([...Object.keys(before), ...Object.keys(now)])]
    .filter((name) => before[name] !== now[name])
    .map((name) => ({ name, before: before[name] ?? 'absent', now: now[name] ?? 'absent' }));
}

async function changedSince(
  deps: Deps,
  project: ProjectRow,
  build: BuildRecord,
  good: BuildRecord,
): Promise<BuildReply['lastGood']> {
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const [changed, commits] = await Promise.all([
    filesBetween(directory, good.commitId, build.commitId, folderOf(project, build)),
    commitsIn(directory, good.commitId, build.commitId),
  ]);
  return {
    number: good.number,
    commit: good.commitId as CommitId,
    changed: [...changed],
    commits: await withAuthors(deps.db, commits),
    packages: [...(await packagesThatDiffer(deps, directory, build, good, changed))],
  };
}

const mostPackages = 50;
const largestLock = 16 << 20;

/** Packages that the lock files of the two commits install otherwise; those beyond the folder count too. */
async function packagesThatDiffer(
  deps: Deps,
  directory: string,
  build: BuildRecord,
  good: BuildRecord,
  changed: readonly { readonly path: string }[],
): Promise<readonly LockDifference[]> {
  const beyond = build.recipe?.recipe.beyond ?? [];
  const paths = new Set(
    [...changed.map((file) => file.path), ...beyond.map((path) => path.slice(1))].filter(isLock),
  );
  const lockAt = async (path: string, commit: string): Promise<LockedPackages> =>
    deps.reading.lock(path, (await fileIn(directory, commit as CommitId, path, largestLock)) ?? '');
  const all = await Promise.all(
    [...paths].map(async (path) =>
      lockDifferences(await lockAt(path, good.commitId), await lockAt(path, build.commitId)),
    ),
  );
  return all.flat().slice(0, mostPackages);
}
