import { readRecipe } from '@vaquero/contracts';
import {
  type BuildFailure,
  type CommitId,
  configFiles,
  type Proposal,
  proposeRecipe,
  type Recipe,
  type RecipeSource,
  type Refusal,
  recipeFileName,
} from '@vaquero/core';
import { z } from 'zod';
import type { Db, Tx } from '../database/pool.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { fileIn, pathsIn } from '../repositories/bare-repository.ts';
import { latestAccepted } from './recipe-rows.ts';

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

const names = z.record(z.string(), z.unknown()).default({});
const packageSchema = z
  .object({
    scripts: z.record(z.string(), z.string()).default({}),
    dependencies: names,
    devDependencies: names,
    workspaces: z
      .union([z.array(z.string()), z.object({ packages: z.array(z.string()) })])
      .optional()
      .catch(undefined),
  })
  .transform(({ scripts, dependencies, devDependencies, workspaces }) => ({
    scripts,
    dependencies: Object.keys({ ...dependencies, ...devDependencies }),
    workspaces: Array.isArray(workspaces) ? workspaces : (workspaces?.packages ?? []),
  }));

/** Reads all that speaks for a recipe at a commit. */
export async function viewRecipe(
  db: Db | Tx,
  directory: string,
  project: ProjectRow,
  commit: CommitId,
): Promise<RecipeView> {
  const [file, accepted, proposal] = await Promise.all([
    readRecipeFile(directory, project, commit),
    latestAccepted(db, project.id),
    propose(directory, project, commit),
  ]);
  return { file, accepted, proposal };
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
  const proposal = isOpen
    ? await propose(directory, project, commit)
    : { recipe: null, because: [] };
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
  project: ProjectRow,
  commit: CommitId,
): Promise<Proposal> {
  const [paths, packageText] = await Promise.all([
    pathsIn(directory, commit, project.folder),
    fileIn(directory, commit, inFolder(project, 'package.json'), 1 << 20),
  ]);
  const present = new Set(paths);
  const configs = await Promise.all(
    configFiles
      .filter((path) => present.has(path))
      .map(
        async (path) =>
          [
            path,
            (await fileIn(directory, commit, inFolder(project, path), 64 << 10)) ?? '',
          ] as const,
      ),
  );
  return proposeRecipe({
    paths,
    packageJson: readPackage(packageText),
    configs: Object.fromEntries(configs),
  });
}

function readPackage(text: string | undefined): z.output<typeof packageSchema> | null {
  if (text === undefined) return null;
  try {
    return packageSchema.parse(JSON.parse(text));
  } catch {
    // A package.json that npm could not read either speaks for nothing.
    return null;
  }
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
  const { recipe, because } = view.proposal;
  return recipe === null
    ? { failure: { reason: 'recipe-missing', because } }
    : { recipe, source: { from: 'proposed', because } };
}

/** The failure of a build whose recipe cannot be read. */
export function unreadable(file: string, refusal: Refusal): BuildFailure {
  const faults = refusal.code === 'recipe-invalid' ? refusal.faults : [];
  return { reason: 'recipe-invalid', file, faults };
}
