import {
  type BuildFailure,
  type BuildInputs,
  builtOnWord,
  type CommitId,
  canonical,
  type DeliveryMap,
  type Destination,
  type Digest,
  type Json,
  looksFor,
  mostLooks,
  nameOfRef,
  type Proposed,
  planFor,
  type Recipe,
  type RecipeSource,
  type RefName,
  readRefName,
  rootedPlan,
  seenPaths,
  shutIn,
  shutInBy as shutInByFamily,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { destinationFor, narrowedTo } from '../map/aim.ts';
import { mapOf } from '../map/map-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { type NamedRecipe, recipesForRef, recipesOfCommit } from '../recipes/recipes-of-commit.ts';
import { type CommitFacts, commitFacts, objectsAt } from '../repositories/bare-repository.ts';
import { noted } from '../repositories/being-read.ts';
import { requireBounded } from '../repositories/git-trees.ts';
import { CommitUnreadable } from '../repositories/tree-size.ts';
import { digestsOf } from '../variables/changed-values.ts';
import { type GivenValue, givenSets, givenTogether } from '../variables/given-values.ts';
import { type KnownBuild, knownBuild } from './build-rows.ts';

/** What a build needs from Git and from earlier builds, read before its row is written. */
export interface PreparedBuild {
  /** The name of its recipe. */
  readonly name: string;
  readonly commit: CommitFacts;
  /** The folder that it is of. */
  readonly folder: string;
  readonly proposed: Proposed | null;
  readonly map: DeliveryMap;
  /** Where the map sends its ref, asked once, here: of several rules that are given different values each set has a build. */
  readonly destination: Destination;
  /** The family that lets none of its steps reach out, as it is an outsider's; null where they may as they say. */
  readonly shutInBy: string | null;
  readonly recipe: { readonly recipe: Recipe; readonly source: RecipeSource } | null;
  readonly failure: BuildFailure | null;
  readonly inputKey: Digest | null;
  /** What decides beside the commit which bytes come of it; null where there is no recipe. */
  readonly inputs: BuildInputs | null;
  /** A build of equal inputs that passed, and whose artifact is kept. */
  readonly known: KnownBuild | null;
}

/**
 * Reads a commit, resolves the recipes that a ref is built by, and looks for each, and for each set of values that the
 * environments it goes to give it, whether a build of equal inputs is known. `isAsked`: somebody asks for it, wherever
 * the map sends the ref; `proposed`: the pull request that the ref is the head of.
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
  // What outsiders wrote goes nowhere, and is looked at by its own address where members' would have a preview.
  const isLookedAt = proposed?.trust === 'outsider' && builtOnWord(map, ref, proposed.into);
  const isSent = isAsked || isLookedAt || destination.rules.length > 0;
  try {
    return await noted(directory, commit, async () => {
      const { entries } = await requireBounded(directory, commit);
      const [facts, recipes] = await Promise.all([
        commitFacts(directory, commit),
        recipesOfCommit(deps, directory, project, commit),
      ]);
      const all = await Promise.all(
        recipesForRef(recipes, ref, isSent, proposed?.into ?? null).map((one) =>
          prepareRecipe(deps, directory, project, {
            commit: facts,
            ref,
            proposed,
            map,
            destination,
            one,
          }),
        ),
      );
      return all.flat().map((build) => withinLooks(build, entries));
    });
  } catch (error) {
    if (!(error instanceof CommitUnreadable)) throw error;
    const none = {
      name: 'site',
      folder: project.folder,
      proposed,
      map,
      destination,
      shutInBy: null,
      recipe: null,
      inputs: null,
      inputKey: null,
      known: null,
    };
    const failure: BuildFailure = { reason: 'commit-unreadable', why: error.message };
    // Not even what it says of itself is believed to be harmless.
    const unread = {
      id: commit,
      subject: '(not read)',
      author: '(not read)',
      authorMail: null,
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

interface PrepareRecipe {
  readonly commit: CommitFacts;
  readonly ref: RefName;
  readonly proposed: Proposed | null;
  readonly map: DeliveryMap;
  readonly destination: Destination;
  readonly one: NamedRecipe;
}

async function prepareRecipe(
  deps: Deps,
  directory: string,
  project: ProjectRow,
  { commit, ref, proposed, map, destination, one }: PrepareRecipe,
): Promise<readonly PreparedBuild[]> {
  const { folder } = project;
  const none = {
    name: one.name,
    commit,
    folder,
    proposed,
    map,
    destination,
    shutInBy: null,
    inputs: null,
    inputKey: null,
    known: null,
  };
  if (!('recipe' in one)) return [{ ...none, recipe: null, failure: one.failure }];
  const recipe = { recipe: one.recipe, source: one.source };
  const trust = proposed?.trust ?? 'trusted';
  const shutInBy = trust === 'outsider' ? shutInByFamily(map, ref, proposed?.into ?? null) : null;
  const asked = planFor(one.recipe, ref, proposed?.into);
  const plan = shutInBy === null ? asked : shutIn(asked);
  const rules = destination.rules.map(({ name }) => name);
  // What publishes nothing reaches no environment: its values part nothing.
  const given = one.recipe.serve === null ? givenTogether : givenSets;
  const sets = await given(deps, deps.db, map, { project, rules, trust }, plan);
  return Promise.all(
    sets.map(async ({ rules: wanting, values, unset }): Promise<PreparedBuild> => {
      const into = proposed?.into ?? null;
      const inputs: BuildInputs = {
        trust,
        steps: plan.steps.map(({ name }) => name),
        given: digestsOf(deps.keys, values),
      };
      const narrowed = narrowedTo(destination, wanting, ref, into);
      const set = { ...none, shutInBy, recipe, inputs, destination: narrowed };
      const failure = unsetFailure(unset, { ref, proposedInto: into });
      if (failure !== null) return { ...set, failure };
      const inputKey = await inputKeyOf(deps, directory, project, { commit, trust, plan, values });
      const known = await knownBuild(deps.db, project.id, inputKey);
      return { ...set, failure: null, inputKey, known };
    }),
  );
}

/** Why a build cannot begin as names that its recipe reads have no value; null where all have one. */
export function unsetFailure(
  names: readonly string[],
  of: { readonly ref: string; readonly proposedInto: string | null },
): BuildFailure | null {
  if (names.length === 0) return null;
  const ref = readRefName(of.ref);
  return of.proposedInto === null || ref === undefined
    ? { reason: 'names-unset', names }
    : { reason: 'names-withheld', names, pullRequest: nameOfRef(ref) };
}

interface Inputs {
  readonly commit: CommitFacts;
  readonly trust: Proposed['trust'];
  readonly plan: Recipe;
  readonly values: readonly GivenValue[];
}

/** Names all that goes into a build; hashed with a key of the installation, as values are in it. */
async function inputKeyOf(
  deps: Deps,
  directory: string,
  { id, folder }: ProjectRow,
  { commit, trust, plan, values }: Inputs,
): Promise<Digest> {
  const paths = seenPaths(plan, folder);
  return deps.keys.keyed(
    canonical({
      project: id,
      trust,
      plan: rootedPlan(plan, folder) as unknown as Json,
      given: Object.fromEntries(values.map(({ name, value }) => [name, value])),
      tree:
        paths.length === 0 ? [commit.tree] : [...(await objectsAt(directory, commit.id, paths))],
    }),
  );
}

/** Whether a build could go live: one whose recipe publishes, or cannot be read and might. */
export function mayPublish(build: PreparedBuild): boolean {
  return build.recipe === null || build.recipe.recipe.serve !== null;
}

/** Whether the top of the lanes waits for a build. */
export function isForTop({ map, destination }: PreparedBuild): boolean {
  const [top] = map.environments;
  return destination.rules.some((rule) => rule === top);
}
