import { nameOfPullRequest } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { type PullRequestRow, reopenRow } from '../changes/pull-request-rows.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Done, NoteDone } from '../idempotency/kept-call-rows.ts';
import type { Caller } from '../people/caller.ts';
import { lockRepository, type ProjectRow } from '../projects/project-rows.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { refuseTwin, refuseUnmergeable } from './open-pull-request.ts';

/**
 * Opens a closed pull request again: its head is followed, and what the map gives it comes back.
 * Refuses: pull-request-open, pull-request-ended, branch-missing, invalid-request.
 */
export async function reopenPullRequest(
  deps: Deps,
  doorbell: Doorbell,
  project: ProjectRow,
  pull: PullRequestRow,
  caller: Caller,
  note: NoteDone,
): Promise<Done<number>> {
  const name = nameOfPullRequest(pull.number);
  await refuseUnmergeable(deps, project, pull.from, pull.into);
  const done = await inTransaction(deps.db, async (tx) => {
    await lockRepository(tx, project.repositoryId);
    await refuseTwin(tx, project, pull);
    if (!(await reopenRow(tx, pull.id)))
      return pull.state === 'open'
        ? refused({
            code: 'pull-request-open',
            name,
            branch: pull.from.branch,
            into: pull.into,
          })
        : refused({ code: 'pull-request-ended', name, state: pull.state });
    decide(tx, {
      at: deps.clock(),
      kind: 'pull-request.reopened',
      project,
      doing: caller.doing,
      facts: { pullRequest: pull.number, into: pull.into, head: pull.head },
    });
    return note(tx, pull.number);
  });
  await doorbell.ringAndWait(project.repositoryId, { kind: 'person', doing: caller.doing });
  return done;
}
