import { decideBringIn, nameOfPullRequest, refOfBranch } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import type { PullRequestRow } from '../changes/pull-request-rows.ts';
import { type ProjectRow, repositoryById } from '../projects/project-rows.ts';
import { directoryOf, refsOf } from '../repositories/bare-repository.ts';
import { moveBranch } from '../repositories/merge-commits.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { joined } from './join-commits.ts';
import type { MergeWish } from './merge-pull-request.ts';

/**
 * Brings what its target has into the branch of a pull request, so that what is previewed is what a merge would bring. The
 * look behind it has the new commit built like one that was pushed. Where there is nothing to bring, nothing moves.
 * Refuses: merges-elsewhere, branch-elsewhere, pull-request-ended, pull-request-moved, branch-moved, merge-conflicts.
 */
export async function bringInTarget(
  deps: Deps,
  doorbell: Doorbell,
  project: ProjectRow,
  pull: PullRequestRow,
  { head, target, caller }: MergeWish,
): Promise<void> {
  const repository = await repositoryById(deps.db, project.repositoryId);
  const name = nameOfPullRequest(pull.number);
  if (repository.kind !== 'hosted') return refused({ code: 'merges-elsewhere', name });
  const directory = directoryOf(deps.config.stateDirectory, repository.id);
  const [ref, into] = [refOfBranch(pull.from.branch), refOfBranch(pull.into)];
  const refs = await refsOf(directory);
  const now = into === undefined ? undefined : refs.get(into);
  const other = orRefuse(decideBringIn(pull, { head, target }, now ?? null));
  const { branch } = pull.from;
  const to = await joined(directory, { name, base: head, other, baseIs: branch }, caller, {
    message: `Merge ${pull.into} into ${branch} (${name})\n`,
  });
  if (to === head) return;
  if (ref === undefined || !(await moveBranch(directory, ref, { from: head, to })))
    return refused({ code: 'pull-request-moved', name, seen: head, now: null });
  await doorbell.ringAndWait(repository.id, { kind: 'person', doing: caller.doing });
}
