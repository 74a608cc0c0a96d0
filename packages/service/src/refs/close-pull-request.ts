import { nameOfPullRequest, refOfPullRequest } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { type PullRequestRow, setPullRequest } from '../changes/pull-request-rows.ts';
import { inTransaction } from '../database/transaction.ts';
import { closeAt } from '../environments/family-rows.ts';
import type { Done, NoteDone } from '../idempotency/kept-call-rows.ts';
import type { Caller } from '../people/caller.ts';
import { livingProjectsOf, type ProjectRow, setRef } from '../projects/project-rows.ts';

/** Closes an open pull request; what was built of it stays. Refuses: pull-request-ended. */
export async function closePullRequest(
  deps: Deps,
  project: ProjectRow,
  pull: PullRequestRow,
  caller: Caller,
  note: NoteDone,
): Promise<Done<number>> {
  return inTransaction(deps.db, async (tx) => {
    const at = deps.clock();
    const isClosed = await setPullRequest(tx, pull.id, { state: 'closed', endedAt: at });
    const name = nameOfPullRequest(pull.number);
    if (!isClosed)
      return refused({
        code: 'pull-request-ended',
        name,
        state: pull.state === 'open' ? 'closed' : pull.state,
      });
    // Its head is followed no more, and what families have for it ends after their time.
    const ref = refOfPullRequest(pull.number);
    await setRef(tx, project.repositoryId, ref, null);
    for (const one of await livingProjectsOf(tx, project.repositoryId))
      await closeAt(tx, one, ref, at);
    decide(tx, {
      at,
      kind: 'pull-request.closed',
      project,
      doing: caller.doing,
      facts: { pullRequest: pull.number, into: pull.into, head: pull.head },
    });
    return note(tx, pull.number);
  });
}
