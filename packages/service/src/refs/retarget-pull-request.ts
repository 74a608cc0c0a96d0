import { nameOfPullRequest } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { type PullRequestRow, setPullRequest } from '../changes/pull-request-rows.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Caller } from '../people/caller.ts';
import { lockRepository, type ProjectRow } from '../projects/project-rows.ts';
import { keepFamiliesOf } from './keep-families-of.ts';
import { refuseTwin, refuseUnmergeable } from './open-pull-request.ts';

/**
 * Says that an open pull request would be merged into another branch: where the map sends it may be elsewhere then.
 * Refuses: pull-request-ended, pull-request-open, branch-missing, invalid-request.
 */
export async function retargetPullRequest(
  deps: Deps,
  project: ProjectRow,
  pull: PullRequestRow,
  { into, caller }: { readonly into: string; readonly caller: Caller },
): Promise<void> {
  const name = nameOfPullRequest(pull.number);
  await refuseUnmergeable(deps, project, pull.from, into);
  await inTransaction(deps.db, async (tx) => {
    await lockRepository(tx, project.repositoryId);
    await refuseTwin(tx, project, { ...pull, into });
    if (!(await setPullRequest(tx, pull.id, { into })))
      return refused({
        code: 'pull-request-ended',
        name,
        state: pull.state === 'open' ? 'closed' : pull.state,
      });
    decide(tx, {
      at: deps.clock(),
      kind: 'pull-request.retargeted',
      project,
      doing: caller.doing,
      facts: { pullRequest: pull.number, into, head: pull.head },
      before: { into: pull.into },
      after: { into },
    });
  });
  await keepFamiliesOf(deps, project.repositoryId);
}
