import { readRecipe } from '@vaquero/contracts';
import {
  type BuildFailure,
  type CommitId,
  type Proposal,
  proposeRecipe,
  type Recipe,
  type RecipeSource,
  type Refusal,
  recipeFileName,
} from '@vaquero/core';
import type { Db, Tx } from '../database/pool.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { fileIn } from '../repositories/bare-repository.ts';
import { latestAccepted } from './recipe-rows.ts';
import { viewCommit } from './view-commit.ts';

/** The recipe a commit is built by, or why there is none. */
export type Resolved =
  | { readonly recipe: Recipe; readonly source: RecipeSource }
  | { readonly failure: BuildFailure };

/** All that speaks for a recipe at a commit: the file, what was accepted, what would be proposed. */
export interface RecipeView {
  readonly file: { readonly text: string; readonly read: ReturnType<typeof readRecipe> } | null;
  readonly accepted: {
    readonly version: number;
    readonly recipe: Recipe;
    readonly by: string;
  } | null;
  readonly proposal: Proposal;
}

const nothingProposed: Proposal = { recipe: null, because: [], warnings: [], candidates: [] };

/** Reads all that speaks for a recipe at a commit. */
export async function viewRecipe(
  db: Db | Tx,
  directory: string,
  project: ProjectRow,
  commit: CommitId,
): Promise<RecipeView> {
  const [said, accepted] = await Promise.all([
    proposedIn(directory, project, commit),
    latestAccepted(db, project.id),
  ]);
  return { ...said, accepted };
}

/** What a folder of a commit says itself: its recipe file, and what would be proposed. */
export async function proposedIn(
  directory: string,
  project: Pick<ProjectRow, 'folder'>,
  commit: CommitId,
): Promise<Omit<RecipeView, 'accepted'>> {
  const [file, proposal] = await Promise.all([
    readRecipeFile(directory, project, commit),
    propose(directory, project, commit),
  ]);
  return { file, proposal };
}

/** The recipe of the project's own file, else the accepted, else the proposed one; reads no further than the first that decides. */
export async function ownRecipe(
  db: Db | Tx,
  directory: string,
  project: ProjectRow,
  commit: CommitId,
): Promise<Resolved> {
  const file = await readRecipeFile(directory, project, commit);
  const accepted = file === null ? await latestAccepted(db, project.id) : null;
  const isOpen = file === null && accepted === null;
  const proposal = isOpen ? await propose(directory, project, commit) : nothingProposed;
  return resolveRecipe({ file, accepted, proposal });
}

async function readRecipeFile(
  directory: string,
  project: Pick<ProjectRow, 'folder'>,
  commit: CommitId,
): Promise<RecipeView['file']> {
  const path = inFolder(project, recipeFileName);
  const text = await fileIn(directory, commit, path, 1 << 20);
  return text === undefined ? null : { text, read: readRecipe(text, path) };
}

/** A path below a project's folder, from the repository's root. */
export function inFolder({ folder }: Pick<ProjectRow, 'folder'>, path: string): string {
  return folder === '' ? path : `${folder}/${path}`;
}

async function propose(
  directory: string,
  project: Pick<ProjectRow, 'folder'>,
  commit: CommitId,
): Promise<Proposal> {
  return proposeRecipe(await viewCommit(directory, commit, project.folder));
}

/** Resolves the recipe of a commit: the file wins, then what was accepted, then the proposal. */
export function resolveRecipe(view: RecipeView): Resolved {
  if (view.file !== null) {
    const { read } = view.file;
    if (read.ok) return { recipe: read.value, source: { from: 'file', file: recipeFileName } };
    return { failure: unreadable(recipeFileName, read.refusal) };
  }
  if (view.accepted !== null)
    return {
      recipe: view.accepted.recipe,
      source: { from: 'accepted', version: view.accepted.version },
    };
  const { recipe, because, warnings, candidates } = view.proposal;
  return recipe === null
    ? {
        failure: {
          reason: 'recipe-missing',
          because,
          candidates: candidates.map(({ name }) => name),
        },
      }
    : { recipe, source: { from: 'proposed', because, warnings } };
}

/** The failure of a build whose recipe cannot be read. */
export function unreadable(file: string, refusal: Refusal): BuildFailure {
  const faults = refusal.code === 'recipe-invalid' ? refusal.faults : [];
  return { reason: 'recipe-invalid', file, faults };
}
