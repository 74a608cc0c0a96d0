import { cleanPath } from './glob.ts';
import type { Recipe, RecipeStep } from './recipe.ts';

/**
 * A recipe whose paths all count from the repository's root, as a runner carries it out: those of the
 * project's folder with it in front, those that began with `/` without that.
 */
export function rootedPlan(recipe: Recipe, folder: string): Recipe {
  const root = (path: string): string => {
    if (path.startsWith('/')) return cleanPath(path.slice(1));
    return cleanPath(folder === '' ? path : `${folder}/${path}`);
  };
  const step = (one: RecipeStep): RecipeStep => ({
    ...one,
    in: one.in === null ? (folder === '' ? null : folder) : root(one.in),
    reads: one.reads?.map(root) ?? null,
    writes: one.writes?.map(root) ?? null,
    caches: one.caches.map((path) => (path.startsWith('~') ? path : root(path))),
    results: { tests: one.results.tests.map(root), findings: one.results.findings.map(root) },
  });
  return {
    ...recipe,
    steps: recipe.steps.map(step),
    serve: recipe.serve && {
      ...recipe.serve,
      site: recipe.serve.site === null ? null : root(recipe.serve.site),
      ...(recipe.serve.sites === undefined
        ? {}
        : {
            sites: Object.fromEntries(
              Object.entries(recipe.serve.sites).map(([at, folder]) => [at, root(folder)]),
            ),
          }),
    },
  };
}

/** The paths of a repository that a project's steps may see: its folder, and what its recipe names beyond it. */
export function seenPaths(recipe: Recipe, folder: string): readonly string[] {
  if (folder === '') return [];
  return [folder, ...recipe.beyond.map((path) => cleanPath(path.slice(1)))];
}

/** A path below the repository's root as one below the project's folder. */
export function belowFolder(path: string, folder: string): string {
  if (folder === '' || path === folder) return path === folder ? '.' : path;
  return path.startsWith(`${folder}/`) ? path.slice(folder.length + 1) : path;
}
