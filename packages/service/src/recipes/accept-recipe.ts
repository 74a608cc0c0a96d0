import {
  faultText,
  type RecipeReply,
  recipeOf,
  type recipeRoutes,
  writeRecipe,
} from '@vaquero/contracts';
import {
  type CommitId,
  faultInWords,
  graphFaults,
  type Recipe,
  recipeDifferences,
  recipeFileName,
  recipeFolderName,
  refOfBranch,
  ruleFaults,
  rulesOf,
  withFolder,
} from '@vaquero/core';
import type { z } from 'zod';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { requireSeen } from '../base/require-seen.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Caller } from '../people/caller.ts';
import { lockProject, type ProjectRow, refsKnown } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { folderShown, insertAccepted, latestAccepted } from './recipe-rows.ts';
import { recipesOfCommit } from './recipes-of-commit.ts';
import { type RecipeView, resolveRecipe, viewRecipe } from './resolve-recipe.ts';

type Wanted = z.output<typeof recipeRoutes.acceptRecipeRoute.body>;

/** Names what was accepted; nothing yet is a version, too. */
function versionOf(accepted: { readonly version: number } | null): string {
  return String(accepted?.version ?? 0);
}

/** Shows the recipe in force at the trunk's newest commit, and what it is measured against. */
export async function showRecipe(deps: Deps, project: ProjectRow): Promise<RecipeReply> {
  const commit = await headOf(deps, project);
  if (commit === null) {
    return {
      version: versionOf(await latestAccepted(deps.db, project.id)),
      commit: null,
      inForce: null,
      proposed: null,
      accepted: null,
      differences: [],
      asFile: null,
      fileFault: null,
      further: [],
    };
  }
  const view = await viewOf(deps, project, commit);
  const resolved = resolveRecipe(view);
  const inForce = 'recipe' in resolved ? resolved : null;
  const ours = view.accepted?.recipe ?? view.proposal.recipe;
  const theirs = view.file?.read.ok === true ? view.file.read.value : null;
  return {
    version: versionOf(view.accepted),
    commit,
    inForce: inForce === null ? null : plain(inForce),
    proposed: plain(view.proposal),
    accepted: view.accepted === null ? null : plain(view.accepted),
    differences: ours !== null && theirs !== null ? plain(recipeDifferences(ours, theirs)) : [],
    asFile: view.file?.text ?? asFileOf(inForce?.recipe ?? null),
    fileFault: view.file !== null && !view.file.read.ok ? faultText(view.file.read.refusal) : null,
    further: [...(await furtherOf(deps, project, commit))],
  };
}

/** The text of a recipe that stands in no file; null where its folder is not known yet. */
function asFileOf(recipe: Recipe | null): string | null {
  return recipe === null || recipe.serve?.site === null ? null : writeRecipe(recipe);
}

async function furtherOf(
  deps: Deps,
  project: ProjectRow,
  commit: CommitId,
): Promise<RecipeReply['further']> {
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const all = await recipesOfCommit(deps, directory, project, commit);
  return all
    .flatMap((one): RecipeReply['further'] => {
      if ('recipe' in one) {
        const file = one.source.from === 'file' ? one.source.file : recipeFileName;
        const steps = one.recipe.steps.map((step) => step.name);
        const publishes = one.recipe.serve !== null;
        return [{ name: one.name, file, steps, publishes, fault: null }];
      }
      if (one.failure.reason !== 'recipe-invalid') return [];
      const { file, faults } = one.failure;
      const fault = faults.map(faultInWords).join(' ');
      return [{ name: one.name, file, steps: [], publishes: false, fault }];
    })
    .filter((one) => one.file.split('/').at(-2) === recipeFolderName);
}

/**
 * Accepts the recipe in force, with single fields set anew, as the project's next version.
 * Refuses: recipe-file-wins, nothing-proposed, no-commit-yet, invalid-request.
 */
export async function acceptRecipe(
  deps: Deps,
  project: ProjectRow,
  wanted: Wanted,
  { caller, seen }: { readonly caller: Caller; readonly seen: string | null },
): Promise<RecipeReply> {
  const commit = await headOf(deps, project);
  if (commit === null) return refused({ code: 'no-commit-yet', branch: project.branch });
  const view = await viewOf(deps, project, commit);
  if (view.file !== null)
    return refused({ code: 'recipe-file-wins', file: recipeFileName, commit });
  const base = baseOf(view, wanted);
  if (base === null) return refused({ code: 'nothing-proposed', commit });
  const recipe = changed(base, wanted);
  const at = deps.clock();
  await inTransaction(deps.db, async (tx) => {
    await lockProject(tx, project.id);
    const last = await latestAccepted(tx, project.id);
    await requireSeen(seen, 'accepted recipe', versionOf(last), () => Promise.resolve(last));
    const version = (last?.version ?? 0) + 1;
    await insertAccepted(tx, {
      projectId: project.id,
      version,
      recipe,
      personId: caller.personId,
      at,
    });
    decide(tx, {
      at,
      kind: 'recipe.accepted',
      project,
      doing: caller.doing,
      facts: { version, site: recipe.serve?.site ?? null },
      before: last && { version: last.version, site: last.recipe.serve?.site ?? null },
      after: { version, site: recipe.serve?.site ?? null },
    });
  });
  return showRecipe(deps, project);
}

/** What is accepted before fields are set anew: a whole recipe, one of several sites, or what holds already. */
function baseOf(view: RecipeView, wanted: Wanted): Recipe | null {
  if (wanted.recipe !== undefined) return recipeOf(wanted.recipe);
  if (wanted.candidate === undefined) return view.accepted?.recipe ?? view.proposal.recipe;
  const { candidates } = view.proposal;
  const taken = candidates.find(({ name }) => name === wanted.candidate);
  const names = candidates.map(({ name }) => name).join(', ') || 'none';
  return taken?.recipe ?? invalid([['candidate', `is no site of this commit; there are ${names}`]]);
}

function invalid(faults: readonly (readonly [path: string, message: string])[]): never {
  return refused({
    code: 'invalid-request',
    faults: faults.map(([path, message]) => ({ path, message, line: null, column: null })),
  });
}

function changed(base: Recipe, wanted: Wanted): Recipe {
  const run = wanted.run ?? {};
  const wishes = new Map(Object.entries(wanted.steps ?? {}));
  const known = new Set(base.steps.map((step) => step.name));
  const names = [...known].join(', ') || 'none';
  const unknown = [
    ...Object.keys(run).map((name) => ['run', name] as const),
    ...[...wishes.keys()].map((name) => ['steps', name] as const),
  ].filter(([, name]) => !known.has(name));
  if (unknown.length > 0)
    invalid(unknown.map(([key, name]) => [`${key}.${name}`, `is no step; there are ${names}`]));
  const removed = new Set(
    Object.entries(run).flatMap(([name, commands]) => (commands.length === 0 ? [name] : [])),
  );
  const recipe: Recipe = {
    ...base,
    tools: { ...base.tools, ...withoutGaps(wanted.tools ?? {}) },
    steps: base.steps
      .filter((step) => !removed.has(step.name))
      .map((step) => ({
        ...step,
        ...withoutGaps(wishes.get(step.name) ?? {}),
        run: run[step.name] ?? step.run,
        after: step.after.filter((name) => !removed.has(name)),
      })),
    serve: servedAs(base, wanted),
  };
  const faults = [
    ...graphFaults(recipe),
    ...(recipe.serve === null ? [] : ruleFaults(rulesOf(recipe.serve))),
  ];
  if (faults.length > 0) invalid(faults.map(({ path, message }) => [path.join('.'), message]));
  return recipe;
}

function servedAs({ serve }: Recipe, wanted: Wanted): Recipe['serve'] {
  const { site, entry, missing, base, instead } = wanted;
  const isSaid = [site, entry, missing, base, instead].some((one) => one !== undefined);
  if (wanted.serve === 'nothing' || (serve === null && !isSaid)) return null;
  const { base: was = '/', instead: stood = [], ...others } = serve ?? {};
  const at = base ?? was;
  const pages =
    instead === undefined
      ? stood
      : Object.entries(instead).map(([from, page]) => ({ at: from, page }));
  return {
    ...others,
    ...(at === '/' ? {} : { base: at }),
    ...(pages.length === 0 ? {} : { instead: pages }),
    site: site ?? serve?.site ?? null,
    entry: entry ?? serve?.entry ?? 'index.html',
    missing: missing === undefined ? (serve?.missing ?? null) : missing,
  };
}

/** A field that is not given leaves what there is. */
function withoutGaps<T extends object>(
  wishes: T,
): { [Key in keyof T]: Exclude<T[Key], undefined> } {
  const given = Object.entries(wishes).filter(([, value]) => value !== undefined);
  return Object.fromEntries(given) as { [Key in keyof T]: Exclude<T[Key], undefined> };
}

/** The recipe view, its open folder filled from the last build that passed: that build has shown it. */
async function viewOf(deps: Deps, project: ProjectRow, commit: CommitId): Promise<RecipeView> {
  const view = await viewRecipe(
    deps.db,
    directoryOf(deps.config.stateDirectory, project.repositoryId),
    project,
    commit,
  );
  const { proposal } = view;
  const { recipe, because } = proposal;
  if (recipe === null || recipe.serve?.site !== null) return view;
  const shown = await folderShown(deps, project.id);
  if (shown === null) return view;
  const filled = withFolder(recipe, shown.site, shown.missing !== null);
  return {
    ...view,
    proposal: {
      ...proposal,
      recipe: filled,
      because: [...because.slice(0, -1), `build ${shown.build} wrote ${shown.site}`],
    },
  };
}

async function headOf(deps: Deps, project: ProjectRow): Promise<CommitId | null> {
  const ref = refOfBranch(project.branch);
  if (ref === undefined) return null;
  return (await refsKnown(deps.db, project.repositoryId)).get(ref) ?? null;
}

/** Readonly views to the wire's own, which the reply schema then checks. */
function plain<T>(value: T): Plain<T> {
  return structuredClone(value) as Plain<T>;
}

type Plain<T> = T extends readonly (infer Item)[]
  ? Plain<Item>[]
  : T extends object
    ? { -readonly [Key in keyof T]: Plain<T[Key]> }
    : T;
