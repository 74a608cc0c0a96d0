import { readRecipe, type recipeRoutes } from '@vaquero/contracts';
import { type CommitId, readCommitId, recipeFileName, refOfBranch } from '@vaquero/core';
import type { z } from 'zod';
import type { Deps } from '../base/deps.ts';
import { Impossible, orRefuse, refused } from '../base/refused.ts';
import { type Caller, requireAbility } from '../people/caller.ts';
import { homeOf, type ProjectRow, repositoryById } from '../projects/project-rows.ts';
import { directoryOf, refsOf } from '../repositories/bare-repository.ts';
import { commitFile } from '../repositories/commit-file.ts';
import { authorHere, moveBranch } from '../repositories/merge-commits.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { inFolder } from './resolve-recipe.ts';

type Wanted = z.output<typeof recipeRoutes.commitRecipeRoute.body> & { readonly caller: Caller };

/**
 * Commits the recipe file to the project's own branch, by whoever may push there. What comes of that is found by the look which
 * every push has. Refuses: not-allowed, recipe-invalid, commits-elsewhere, branch-moved.
 */
export async function commitRecipe(
  deps: Deps,
  doorbell: Doorbell,
  project: ProjectRow,
  { text, message, head, caller }: Wanted,
): Promise<{ commit: CommitId }> {
  requireAbility(caller, 'build', await homeOf(deps.db, project));
  orRefuse(readRecipe(text, recipeFileName));
  const { id, kind } = await repositoryById(deps.db, project.repositoryId);
  if (kind !== 'hosted') return refused({ code: 'commits-elsewhere', project: project.name });
  const directory = directoryOf(deps.config.stateDirectory, id);
  const ref = refOfBranch(project.branch);
  if (ref === undefined) throw new Impossible(`project ${project.id} has no branch`);
  const standsAt = async (): Promise<CommitId | null> => {
    const stands = (await refsOf(directory)).get(ref);
    return stands === undefined ? null : (readCommitId(stands) ?? null);
  };
  const moved = async (): Promise<never> =>
    refused({
      code: 'branch-moved',
      branch: project.branch,
      seen: head ?? '',
      now: await standsAt(),
    });
  if ((await standsAt()) !== head) return moved();
  const file = { base: head, path: inFolder(project, recipeFileName), text };
  const commit = await commitFile(directory, file, {
    ...authorHere(caller),
    message: `${message}\n`,
  });
  if (!(await moveBranch(directory, ref, { from: head, to: commit }))) return moved();
  // It stands there, whatever becomes of this look: the next one finds it.
  await doorbell.ringAndWait(id, { kind: 'person', doing: caller.doing });
  return { commit };
}
