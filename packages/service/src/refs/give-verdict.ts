import { type CommitId, decideVerdict, type Verdict } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse } from '../base/refused.ts';
import { type PullRequestRow, pullRequestByNumber } from '../changes/pull-request-rows.ts';
import { putVerdict } from '../changes/verdict-rows.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Caller } from '../people/caller.ts';
import type { ProjectRow } from '../projects/project-rows.ts';

interface VerdictWish {
  readonly commit: CommitId;
  readonly verdict: Verdict;
  readonly says: string;
  readonly caller: Caller;
}

/** Keeps what a member says of the commit that they looked at. Refuses: pull-request-ended, pull-request-moved. */
export async function giveVerdict(
  deps: Deps,
  project: ProjectRow,
  pull: PullRequestRow,
  { commit, verdict, says, caller }: VerdictWish,
): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    const locked = await pullRequestByNumber(tx, project.repositoryId, pull.number, true);
    orRefuse(decideVerdict(locked ?? pull, commit));
    const at = deps.clock();
    await putVerdict(tx, {
      pullRequestId: pull.id,
      projectId: project.id,
      commitId: commit,
      personId: caller.personId,
      verdict,
      says,
      at,
    });
    decide(tx, {
      at,
      kind: 'pull-request.verdict-given',
      project,
      doing: caller.doing,
      why: says,
      facts: { pullRequest: pull.number, commit, verdict },
    });
  });
}
