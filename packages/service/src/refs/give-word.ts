import {
  type CommitId,
  decideWord,
  nameOfPullRequest,
  neverBuiltBy,
  refOfPullRequest,
  trustOf,
} from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import { prepareBuilds } from '../builds/prepare-builds.ts';
import { queueBuild } from '../builds/queue-build.ts';
import {
  insertWord,
  type PullRequestRow,
  pullRequestByNumber,
  wordFor,
} from '../changes/pull-request-rows.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Done, NoteDone } from '../idempotency/kept-call-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import type { Caller } from '../people/caller.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';

/**
 * Gives a member's word for one commit of an outsider, and queues what the project's recipes want of it. A word
 * that was given before is kept and queues nothing again.
 * Refuses: pull-request-ended, pull-request-moved, no-word-needed, outsiders-not-built.
 */
export async function giveWord(
  deps: Deps,
  project: ProjectRow,
  pull: PullRequestRow,
  { commit, caller }: { readonly commit: CommitId; readonly caller: Caller },
  note: NoteDone,
): Promise<Done<number>> {
  orRefuse(decideWord(pull, commit));
  await requireBuilt(deps, project, pull);
  const ref = refOfPullRequest(pull.number);
  const proposed = { into: pull.into, trust: trustOf(pull.from) };
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const builds = await prepareBuilds(deps, directory, project, commit, ref, false, proposed);
  return inTransaction(deps.db, async (tx) => {
    const locked = await pullRequestByNumber(tx, project.repositoryId, pull.number, true);
    orRefuse(decideWord(locked ?? pull, commit));
    if ((await wordFor(tx, pull.id, project.id, commit)) !== null) return note(tx, pull.number);
    const at = deps.clock();
    const word = { pullRequestId: pull.id, projectId: project.id, commitId: commit, at };
    await insertWord(tx, { ...word, personId: caller.personId });
    const numbers: number[] = [];
    for (const build of builds)
      numbers.push(
        (
          await queueBuild(deps, tx, {
            project,
            build,
            ref,
            changeId: null,
            begunBy: caller.personId,
            cause: `on the word of ${caller.shownAs}`,
            environments: [],
          })
        ).number,
      );
    decide(tx, {
      at,
      kind: 'pull-request.word-given',
      project,
      doing: caller.doing,
      facts: { pullRequest: pull.number, commit, builds: numbers },
    });
    return note(tx, pull.number);
  });
}

/** Refuses (outsiders-not-built) where the map has none of what outsiders propose there built. */
async function requireBuilt(
  deps: Deps,
  project: ProjectRow,
  { number, into }: PullRequestRow,
): Promise<void> {
  const family = neverBuiltBy(await mapOf(deps.db, project), refOfPullRequest(number), into);
  if (family !== null)
    refused({ code: 'outsiders-not-built', name: nameOfPullRequest(number), family });
}
