import { nameOfPullRequest } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import {
  type PullRequestRow,
  pullRequestByNumber,
  setPullRequest,
} from '../changes/pull-request-rows.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Caller } from '../people/caller.ts';
import { lockRepository, type ProjectRow } from '../projects/project-rows.ts';
import { keepFamiliesOf } from './keep-families-of.ts';

/**
 * Says whether an open pull request is a draft. What lives of a draft ends after its time; one that is ready has its
 * environment at once, with what was built meanwhile. Said twice is said once. Refuses: pull-request-ended.
 */
export async function setDraft(
  deps: Deps,
  project: ProjectRow,
  { id, number }: PullRequestRow,
  { isDraft, caller }: { readonly isDraft: boolean; readonly caller: Caller },
): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    await lockRepository(tx, project.repositoryId);
    const pull = await pullRequestByNumber(tx, project.repositoryId, number);
    if (pull?.state !== 'open')
      return refused({
        code: 'pull-request-ended',
        name: nameOfPullRequest(number),
        state: pull?.state ?? 'closed',
      });
    if (pull.isDraft === isDraft) return;
    await setPullRequest(tx, id, { isDraft });
    decide(tx, {
      at: deps.clock(),
      kind: 'pull-request.draft-set',
      project,
      doing: caller.doing,
      facts: { pullRequest: number, into: pull.into, head: pull.head, isDraft },
      before: { isDraft: pull.isDraft },
      after: { isDraft },
    });
  });
  await keepFamiliesOf(deps, project.repositoryId);
}
