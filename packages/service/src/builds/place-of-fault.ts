import { placeFaults } from '@vaquero/contracts';
import { type BuildFailure, cleanPath, recipeFileName } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { inFolder } from '../recipes/resolve-recipe.ts';
import { directoryOf, fileIn } from '../repositories/bare-repository.ts';
import type { Attempted } from './attempted.ts';
import { folderOf } from './build-rows.ts';

/**
 * A failure with the place in the recipe's file that it is about. What a step reads or writes is held against the tree by
 * the runner, which has no file of the recipe; line and column are looked up when it fails, and cost nothing before.
 */
export async function withPlace(
  deps: Deps,
  { build, project }: Attempted,
  failure: BuildFailure,
): Promise<BuildFailure> {
  if (failure.reason !== 'step' || failure.end.kind !== 'paths' || failure.end.at === null)
    return failure;
  const { key, path } = failure.end.at;
  const own = { folder: folderOf(project, build) };
  const { recipe, source } = build.recipe ?? {};
  const step = recipe?.steps.find((one) => one.name === failure.step);
  const isMeant = (written: string): boolean =>
    [cleanPath(written), cleanPath(inFolder(own, cleanPath(written)))].includes(cleanPath(path));
  const place = (step?.[key] ?? []).findIndex(isMeant);
  if (source?.from !== 'file' || place === -1) return failure;
  const file = source.file === recipeFileName ? inFolder(own, recipeFileName) : source.file;
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const text = await fileIn(directory, build.commitId, file, 1 << 20);
  if (text === undefined) return failure;
  const fault = { path: ['steps', failure.step, key, place], message: failure.end.why };
  const placed = placeFaults(text, file, [fault]);
  const found =
    !placed.ok && placed.refusal.code === 'recipe-invalid' ? placed.refusal.faults[0] : undefined;
  if (found === undefined || found.line === null) return failure;
  const why = `${file}, line ${found.line}, column ${found.column ?? 1}: ${failure.end.why}`;
  return { ...failure, end: { ...failure.end, why } };
}
