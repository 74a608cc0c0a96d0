import {
  type BuildFailure,
  type CommitId,
  canonical,
  type DeliveryMap,
  type Destination,
  type Digest,
  type Instant,
  type Json,
  looksFor,
  mostLooks,
  nameOfRef,
  type Proposed,
  planFor,
  type Recipe,
  type RecipeSource,
  type RefName,
  rootedPlan,
  seenPaths,
} from '@vaquero/core';
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { Tx } from '../database/pool.ts';
import { builds, environments, intakes } from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import { aimOf, destinationFor } from '../map/aim.ts';
import { mapOf } from '../map/map-rows.ts';
import { nextBuildNumber, type ProjectRow } from '../projects/project-rows.ts';
import { type NamedRecipe, recipesForRef, recipesOfCommit } from '../recipes/recipes-of-commit.ts';
import { type CommitFacts, commitFacts, objectsAt } from '../repositories/bare-repository.ts';
import { noted } from '../repositories/being-read.ts';
import { requireBounded } from '../repositories/git-trees.ts';
import { CommitUnreadable } from '../repositories/tree-size.ts';
import { givenValues } from '../variables/given-values.ts';
import { type KnownBuild, knownBuild } from './build-rows.ts';

/** What a build needs from Git and from earlier builds, read before its row is written. */
export interface PreparedBuild {
  /** The name of its recipe. */
  readonly name: string;
  readonly commit: CommitFacts;
  /** The folder that it is of. */
  readonly folder: string;
  readonly proposed: Proposed | null;
  /** Where the map sends its ref: asked once, here. */
  readonly map: DeliveryMap;
  readonly destination: Destination;
  readonly recipe: { readonly recipe: Recipe; readonly source: RecipeSource } | null;
  readonly failure: BuildFailure | null;
  readonly inputKey: Digest | null;
  /** A build of equal inputs that passed, and whose artifact is kept. */
  readonly known: KnownBuild | null;
}

/**
 * Reads a commit, resolves the recipes that a ref is built by, and looks for each whether a build of equal
 * inputs is known. `isAsked`: somebody asks for it, wherever the map sends the ref; `proposed`: the pull request that
 * the ref is the head of.
 */
export async function prepareBuilds(
  deps: Deps,
  directory: string,
  project: ProjectRow,
  commit: CommitId,
  ref: RefName,
  isAsked: boolean,
  proposed: Proposed | null,
): Promise<readonly PreparedBuild[]> {
  const map = await mapOf(deps.db, project);
  const destination = destinationFor(map, ref, proposed);
  const isSent = isAsked || destination.rules.length > 0;
  try {
    return await noted(directory, commit, async () => {
      const { entries } = await requireBounded(directory, commit);
      const [facts, recipes] = await Promise.all([
        commitFacts(directory, commit),
        recipesOfCommit(deps, directory, project, commit),
      ]);
      const all = await Promise.all(
        recipesForRef(recipes, ref, isSent, proposed?.into ?? null).map((one) =>
          prepareOne(deps, directory, project, {
            commit: facts,
            ref,
            proposed,
            map,
            destination,
            one,
          }),
        ),
      );
      return all.map((build) => withinLooks(build, entries));
    });
  } catch (error) {
    if (!(error instanceof CommitUnreadable)) throw error;
    const none = {
      name: 'site',
      folder: project.folder,
      proposed,
      map,
      destination,
      recipe: null,
      inputKey: null,
      known: null,
    };
    const failure: BuildFailure = { reason: 'commit-unreadable', why: error.message };
    // Not even what it says of itself is believed to be harmless.
    const unread = {
      id: commit,
      subject: '(not read)',
      author: '(not read)',
      at: deps.clock(),
      tree: '',
    };
    return [{ ...none, commit: unread, failure }];
  }
}

/** A recipe that would have every name of a large commit held against thousands of patterns is not begun. */
function withinLooks(build: PreparedBuild, entries: number): PreparedBuild {
  const looks = looksFor(build.recipe?.recipe.steps ?? [], entries);
  if (looks <= mostLooks) return build;
  const why = `its recipe ${build.name} names more paths and patterns than can be looked for among the ${entries} names of the commit; name folders instead`;
  return { ...build, failure: { reason: 'commit-unreadable', why }, inputKey: null, known: null };
}

interface PrepareOne {
  readonly commit: CommitFacts;
  readonly ref: RefName;
  readonly proposed: Proposed | null;
  readonly map: DeliveryMap;
  readonly destination: Destination;
  readonly one: NamedRecipe;
}

async function prepareOne(
  deps: Deps,
  directory: string,
  project: ProjectRow,
  { commit, ref, proposed, map, destination, one }: PrepareOne,
): Promise<PreparedBuild> {
  const { folder } = project;
  const none = {
    name: one.name,
    commit,
    folder,
    proposed,
    map,
    destination,
    inputKey: null,
    known: null,
  };
  if (!('recipe' in one)) return { ...none, recipe: null, failure: one.failure };
  const recipe = { recipe: one.recipe, source: one.source };
  const plan = planFor(one.recipe, ref, proposed?.into);
  const trust = proposed?.trust ?? 'trusted';
  const rules = destination.rules.map(({ name }) => name);
  const { values, unset } = await givenValues(deps, deps.db, map, { project, rules, trust }, plan);
  if (unset.length > 0)
    return {
      ...none,
      recipe,
      failure:
        proposed === null
          ? { reason: 'names-unset', names: unset }
          : { reason: 'names-withheld', names: unset, pullRequest: nameOfRef(ref) },
    };
  const paths = seenPaths(plan, folder);
  const inputKey = deps.keys.keyed(
    canonical({
      project: project.id,
      trust,
      plan: rootedPlan(plan, folder) as unknown as Json,
      given: Object.fromEntries(values.map(({ name, value }) => [name, value])),
      tree:
        paths.length === 0 ? [commit.tree] : [...(await objectsAt(directory, commit.id, paths))],
    }),
  );
  const known = await knownBuild(deps.db, project.id, inputKey);
  return { ...none, recipe, failure: null, inputKey, known };
}

/** Whether a build could go live: one whose recipe publishes, or cannot be read and might. */
export function mayPublish(build: PreparedBuild): boolean {
  return build.recipe === null || build.recipe.recipe.serve !== null;
}

/** A build to be queued: of which ref, why, and what waits for it. */
export interface QueueBuild {
  readonly project: ProjectRow;
  readonly build: PreparedBuild;
  readonly ref: RefName;
  readonly changeId: string | null;
  readonly cause: string;
  /** Environments that take notice of it, each under a number that orders automatic deploys. */
  readonly environments: readonly string[];
  /** How what is known of earlier steps is used. */
  readonly earlier?: 'used' | 'left' | 'compared';
  /** Somebody means it to be smaller than what is live. */
  readonly meant?: boolean;
}

/**
 * Writes a build and, under each environment's lock, the intakes that wait for it. A build that cannot
 * begin is written as failed at once, one whose inputs are known as reused, with the artifact that came of
 * them: nothing would be gained by queueing either.
 */
export async function queueBuild(
  deps: Deps,
  tx: Tx,
  {
    project,
    build,
    ref,
    changeId,
    cause,
    environments: wanting,
    earlier = 'used',
    meant = false,
  }: QueueBuild,
): Promise<{ readonly id: string; readonly number: number }> {
  const names = mayPublish(build) ? wanting : [];
  const number = await nextBuildNumber(tx, project.id);
  const id = deps.newId();
  const at = deps.clock();
  const failed = build.failure !== null;
  const { known } = build;
  const isOver = failed || known !== null;
  await tx.insert(builds).values({
    id,
    projectId: project.id,
    number,
    state: failed ? 'failed' : known === null ? 'queued' : 'reused',
    ref,
    commitId: build.commit.id,
    subject: build.commit.subject,
    author: build.commit.author,
    committedAt: build.commit.at,
    cause,
    changeId,
    recipe: known?.recipe ?? build.recipe,
    folder: build.folder,
    failure: build.failure,
    queuedAt: at,
    startedAt: isOver ? at : null,
    endedAt: isOver ? at : null,
    artifact: known?.artifact ?? null,
    reusedFrom: known?.number ?? null,
    inputKey: build.inputKey,
    earlier,
    meant,
    recipeName: build.name,
    ...columnsOf(build.proposed),
    aim: aimOf(build.map, build.destination),
    needs: build.recipe?.recipe.runner ?? null,
    // What the top waits for comes before anything else, then what another environment takes.
    priority: isForTop(build) ? 2 : names.length > 0 ? 1 : 0,
  });
  if (names.length > 0)
    await takeIn(tx, project.id, names, build.commit.id, at, {
      buildId: id,
      changeId,
      state: failed ? 'failed' : 'waiting',
    });
  return { id, number };
}

/** Has environments wait for a build that is queued already. */
export async function takeInto(
  deps: Deps,
  tx: Tx,
  { project, build, changeId, environments: names }: QueueBuild,
  buildId: string,
): Promise<void> {
  if (!mayPublish(build) || names.length === 0) return;
  const row = { buildId, changeId, state: build.failure === null ? 'waiting' : 'failed' } as const;
  await takeIn(tx, project.id, names, build.commit.id, deps.clock(), row);
}

/** Whether the top of the lanes waits for a build. */
export function isForTop({ map, destination }: PreparedBuild): boolean {
  const [top] = map.environments;
  return destination.rules.some((rule) => rule === top);
}

function columnsOf(proposed: Proposed | null) {
  return { proposedInto: proposed?.into ?? null, trust: proposed?.trust ?? 'trusted' };
}

async function takeIn(
  tx: Tx,
  projectId: string,
  names: readonly string[],
  head: CommitId,
  touchedAt: Instant,
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
    await tx
      .update(environments)
      .set({ intake, head, touchedAt })
      .where(eq(environments.id, environment.id));
    await tx.insert(intakes).values({ environmentId: environment.id, intake, ...row });
  }
}
