import { type CommitId, decideMerge, nameOfPullRequest, refOfBranch } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import type { PullRequestRow } from '../changes/pull-request-rows.ts';
import type { Caller } from '../people/caller.ts';
import { type ProjectRow, repositoryById } from '../projects/project-rows.ts';
import { directoryOf, refsOf } from '../repositories/bare-repository.ts';
import { moveBranch } from '../repositories/merge-commits.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { joined } from './join-commits.ts';

/** A merge as somebody saw it before they asked for it. */
export interface MergeWish {
  /** The newest commit of the pull request. */
  readonly head: CommitId;
  /** Where the branch that it is merged into stood. */
  readonly target: CommitId;
  readonly caller: Caller;
}

/**
 * Merges a pull request of a repository that is hosted here: the branch moves on to its head, or to a commit of both.
 * What comes of that is found by the look which every push has. Asked again, one that is merged stays merged.
 * Refuses: merges-elsewhere, pull-request-ended, pull-request-moved, branch-moved, merge-conflicts.
 */
export async function mergePullRequest(
  deps: Deps,
  doorbell: Doorbell,
  project: ProjectRow,
  pull: PullRequestRow,
  { head, target, caller }: MergeWish,
): Promise<void> {
  if (pull.state === 'merged' && pull.head === head) return;
  const repository = await repositoryById(deps.db, project.repositoryId);
  const name = nameOfPullRequest(pull.number);
  if (repository.kind !== 'hosted') return refused({ code: 'merges-elsewhere', name });
  const directory = directoryOf(deps.config.stateDirectory, repository.id);
  const ref = refOfBranch(pull.into);
  const now = ref === undefined ? undefined : (await refsOf(directory)).get(ref);
  const from = orRefuse(decideMerge(pull, { head, target }, now ?? null));
  const to = await joined(directory, { name, base: from, other: head, baseIs: pull.into }, caller, {
    message: `Merge ${name} into ${pull.into}: ${pull.title}\n`,
  });
  if (ref === undefined || !(await moveBranch(directory, ref, { from, to }))) {
    const stands = ref === undefined ? undefined : (await refsOf(directory)).get(ref);
    return refused({ code: 'branch-moved', branch: pull.into, seen: target, now: stands ?? null });
  }
  // Merged it is, whatever becomes of this look: the next one finds it.
  await doorbell.ringAndWait(repository.id, { kind: 'person', doing: caller.doing });
}
