import type { BuildFailure, CommitId, Recipe, RecipeSource, RefName } from '@vaquero/core';
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { Tx } from '../database/pool.ts';
import { builds, environments, intakes } from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import { nextBuildNumber, type ProjectRow } from '../projects/project-rows.ts';
import { recipeOfCommit } from '../recipes/resolve-recipe.ts';
import { type CommitFacts, commitFacts } from '../repositories/bare-repository.ts';

/** What a build needs from Git, read before its row is written. */
export interface PreparedBuild {
  readonly commit: CommitFacts;
  readonly recipe: { readonly recipe: Recipe; readonly source: RecipeSource } | null;
  readonly failure: BuildFailure | null;
}

/** Reads a commit and resolves its recipe. */
export async function prepareBuild(
  deps: Deps,
  directory: string,
  project: ProjectRow,
  commit: CommitId,
): Promise<PreparedBuild> {
  const [facts, resolved] = await Promise.all([
    commitFacts(directory, commit),
    recipeOfCommit(deps.db, directory, project, commit),
  ]);
  return 'recipe' in resolved
    ? { commit: facts, recipe: resolved, failure: null }
    : { commit: facts, recipe: null, failure: resolved.failure };
}

interface QueueBuild {
  readonly project: ProjectRow;
  readonly build: PreparedBuild;
  readonly ref: RefName;
  readonly changeId: string | null;
  readonly cause: string;
  /** Environments that take notice of it, each under a number that orders automatic deploys. */
  readonly environments: readonly string[];
}

/**
 * Writes a build and, under each environment's lock, the intakes that wait for it. A build without a
 * recipe is written as failed at once: nothing would be gained by queueing it. Returns its number.
 */
export async function queueBuild(
  deps: Deps,
  tx: Tx,
  { project, build, ref, changeId, cause, environments: names }: QueueBuild,
): Promise<number> {
  const number = await nextBuildNumber(tx, project.id);
  const id = deps.newId();
  const at = deps.clock();
  const failed = build.failure !== null;
  await tx.insert(builds).values({
    id,
    projectId: project.id,
    number,
    state: failed ? 'failed' : 'queued',
    ref,
    commitId: build.commit.id,
    subject: build.commit.subject,
    author: build.commit.author,
    committedAt: build.commit.at,
    cause,
    changeId,
    recipe: build.recipe,
    failure: build.failure,
    queuedAt: at,
    startedAt: failed ? at : null,
    endedAt: failed ? at : null,
  });
  if (names.length > 0)
    await takeIn(tx, project.id, names, {
      buildId: id,
      changeId,
      state: failed ? 'failed' : 'waiting',
    });
  return number;
}

async function takeIn(
  tx: Tx,
  projectId: string,
  names: readonly string[],
  row: { buildId: string; changeId: string | null; state: 'waiting' | 'failed' },
): Promise<void> {
  const locked = await tx
    .select({ id: environments.id, intake: environments.intake })
    .from(environments)
    .where(
      and(
        eq(environments.projectId, projectId),
        inArray(environments.name, [...names]),
        eq(environments.living, true),
      ),
    )
    .orderBy(asc(environments.id))
    .for('update');
  for (const environment of locked) {
    const intake = environment.intake + 1;
    await tx.update(environments).set({ intake }).where(eq(environments.id, environment.id));
    await tx.insert(intakes).values({ environmentId: environment.id, intake, ...row });
  }
}
