import { placeFaults, readRecipe } from '@vaquero/contracts';
import {
  type BuildFailure,
  type CommitId,
  type Recipe,
  type RecipeSource,
  type RefName,
  recipeFileName,
  recipeFolderName,
  recipesFor,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { fileIn, pathsIn } from '../repositories/bare-repository.ts';
import { type Lacking, withBorrowed } from './borrowed-steps.ts';
import { inFolder, ownRecipe, unreadable } from './resolve-recipe.ts';

/** One of the recipes of a commit, or why it cannot be read. */
export type NamedRecipe =
  | { readonly name: string; readonly recipe: Recipe; readonly source: RecipeSource }
  | { readonly name: string; readonly failure: BuildFailure };

type Readable = Extract<NamedRecipe, { recipe: Recipe }>;

const mostFurther = 32;

/**
 * All recipes of a commit: the project's own and those in its folder of further ones. The own one is
 * proposed only when no file says what is published.
 */
export async function recipesOfCommit(
  deps: Deps,
  directory: string,
  project: ProjectRow,
  commit: CommitId,
): Promise<readonly NamedRecipe[]> {
  const [further, own] = await Promise.all([
    furtherRecipes(directory, project, commit),
    ownRecipe(deps.db, directory, project, commit),
  ]);
  const isPublished = further.some((one) => 'recipe' in one && one.recipe.serve !== null);
  const isFile = !('recipe' in own)
    ? own.failure.reason === 'recipe-invalid'
    : own.source.from === 'file';
  const first: NamedRecipe =
    'recipe' in own ? { name: own.recipe.name, ...own } : { name: 'site', ...own };
  const all = isPublished && !isFile ? further : [first, ...further];
  return Promise.all(all.map((one, place) => finished(deps, directory, commit, all, one, place)));
}

/** With its borrowed steps filled in; a name that another one bears is a failure. */
async function finished(
  deps: Deps,
  directory: string,
  commit: CommitId,
  all: readonly NamedRecipe[],
  one: NamedRecipe,
  place: number,
): Promise<NamedRecipe> {
  if (!('recipe' in one)) return one;
  const { name, source } = one;
  const file = source.from === 'file' ? source.file : recipeFileName;
  const twin = all.slice(0, place).find((other) => other.name === name);
  const filled: Recipe | Lacking =
    twin === undefined
      ? await withBorrowed(deps, one.recipe)
      : { faults: [{ path: ['recipe'], message: `is the name of another recipe too: ${name}` }] };
  if (!('faults' in filled)) return { name, recipe: filled, source };
  const text = (await fileIn(directory, commit, file, 1 << 20)) ?? '';
  const read = placeFaults(text, file, filled.faults);
  return {
    name: place === 0 ? name : `${name}-${place}`,
    failure: unreadable(file, refusalOf(read)),
  };
}

function refusalOf(decision: ReturnType<typeof placeFaults>) {
  if (decision.ok) throw new TypeError('faults are a refusal');
  return decision.refusal;
}

async function furtherRecipes(
  directory: string,
  project: ProjectRow,
  commit: CommitId,
): Promise<readonly NamedRecipe[]> {
  const folder = inFolder(project, recipeFolderName);
  const paths = await pathsIn(directory, commit, folder);
  const files = paths
    .filter((path) => path.endsWith('.yaml') && !path.includes('/'))
    .slice(0, mostFurther);
  return Promise.all(
    files.map(async (name): Promise<NamedRecipe> => {
      const file = `${folder}/${name}`;
      const read = readRecipe((await fileIn(directory, commit, file, 1 << 20)) ?? '', file);
      const own = name.replace(/\.yaml$/, '').slice(0, 40);
      return read.ok
        ? { name: read.value.name, recipe: read.value, source: { from: 'file', file } }
        : { name: own, failure: unreadable(file, read.refusal) };
    }),
  );
}

/**
 * The recipes that a ref is built by; `into` is what a pull request would be merged into. Those that cannot be read are among them when the map sends the ref,
 * and two that would both publish are one failure.
 */
export function recipesForRef(
  all: readonly NamedRecipe[],
  ref: RefName,
  isSent: boolean,
  into: string | null,
): readonly NamedRecipe[] {
  const readable = all.filter((one): one is Readable => 'recipe' in one);
  const unread = isSent ? all.filter((one) => !('recipe' in one)) : [];
  const choice = recipesFor(readable, ref, isSent, into);
  if ('chosen' in choice) return [...choice.chosen, ...unread];
  const [first, second] = choice.clashing;
  const fileOf = (one: Readable | undefined): string =>
    one?.source.from === 'file' ? one.source.file : recipeFileName;
  const message = `publishes for ${ref}, and so does ${fileOf(first)}: at most one recipe may, so narrow one of them with for`;
  const faults = [{ path: 'serve', message, line: null, column: null }];
  const failure = { reason: 'recipe-invalid' as const, file: fileOf(second), faults };
  return [{ name: first?.name ?? 'site', failure }, ...unread];
}
