import { readRecipe } from '@vaquero/contracts';
import {
  type Borrowing,
  borrowStep,
  type CommitId,
  graphFaults,
  type Recipe,
  type RecipeFault,
  type RecipeStep,
  readCommitId,
  recipeFileName,
  recipeFolderName,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { projectFormerly } from '../projects/former-name-rows.ts';
import { type ProjectRow, projectByName } from '../projects/project-rows.ts';
import { directoryOf, fileIn, pathsIn } from '../repositories/bare-repository.ts';
import { inFolder } from './resolve-recipe.ts';

/** What keeps a recipe from borrowing what it wants to. */
export interface Lacking {
  readonly faults: readonly RecipeFault[];
}

/** A recipe with the definitions of its borrowed steps filled in, each as it stands at the lender's commit. */
export async function withBorrowed(deps: Deps, recipe: Recipe): Promise<Recipe | Lacking> {
  if (recipe.steps.every((step) => step.borrows === null)) return recipe;
  const steps: RecipeStep[] = [];
  const faults: RecipeFault[] = [];
  for (const step of recipe.steps) {
    const { borrows } = step;
    if (borrows === null) {
      steps.push(step);
      continue;
    }
    const lender = await lenderOf(deps, step.name, borrows);
    const filled = 'faults' in lender ? lender : borrowStep({ ...step, borrows }, lender);
    if ('faults' in filled) faults.push(...filled.faults);
    else steps.push(filled.step);
  }
  if (faults.length > 0) return { faults };
  const filled = { ...recipe, steps };
  const joined = graphFaults(filled);
  return joined.length > 0 ? { faults: joined } : filled;
}

/** The recipe of the lending project that has the step, at the commit that is named. */
async function lenderOf(
  deps: Deps,
  step: string,
  { project: name, step: wanted, commit: id }: Borrowing,
): Promise<Recipe | Lacking> {
  const fault = (key: string, message: string): Lacking => ({
    faults: [{ path: ['steps', step, 'borrows', key], message }],
  });
  // Whoever may push here need not know which projects there are: what lends nothing is told alike.
  const nothing = fault('project', `"${name}" lends nothing at that commit`);
  const project =
    (await projectByName(deps.db, name)) ?? (await projectFormerly(deps.db, name, deps.clock()));
  const commit = readCommitId(id);
  if (project === undefined || commit === undefined) return nothing;
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const recipes = await lendingRecipes(directory, project, commit);
  const lending = recipes.filter((one) => one.steps.some((each) => each.lends !== null));
  const having = lending.find((one) => one.steps.some((each) => each.name === wanted));
  return having ?? lending[0] ?? nothing;
}

async function lendingRecipes(
  directory: string,
  project: ProjectRow,
  commit: CommitId,
): Promise<readonly Recipe[]> {
  const folder = inFolder(project, recipeFolderName);
  const further = await pathsIn(directory, commit, folder).catch(() => []); // No such folder, or no such commit.
  const files = [
    inFolder(project, recipeFileName),
    ...further.filter((path) => path.endsWith('.yaml')).map((path) => `${folder}/${path}`),
  ];
  const texts = await Promise.all(
    files.map(async (file) => ({ file, text: await fileIn(directory, commit, file, 1 << 20) })),
  );
  return texts.flatMap(({ file, text }) => {
    const recipe = text === undefined ? null : readRecipe(text, file);
    return recipe?.ok === true ? [recipe.value] : [];
  });
}
