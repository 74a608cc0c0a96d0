import {
  type CommitId,
  type MovedRef,
  movedRefs,
  pullRequestOf,
  type RefName,
  refOfPullRequest,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { openPullRequests, type PullRequestRow } from '../changes/pull-request-rows.ts';
import { refsKnown } from '../projects/project-rows.ts';
import { branchesSet, refsOf } from '../repositories/bare-repository.ts';
import type { Ring } from '../repositories/rings.ts';
import { type Ended, endedOf, headsOf } from './pull-request-heads.ts';

/** More than these are looked at all at once. */
const mostNamed = 20;

/** What a look saw: refs that moved, the pull requests that were open before it, and those that it ends. */
export interface Seen {
  readonly moved: readonly MovedRef[];
  readonly open: readonly PullRequestRow[];
  readonly ends: readonly Ended[];
}

/**
 * What differs between the refs as Git has them and as they are known: those that a push named, or all. The head of
 * a pull request moves with its branch.
 */
export async function whatMoved(
  deps: Deps,
  directory: string,
  repositoryId: string,
  { refs }: Ring,
): Promise<Seen> {
  const isNamed = refs != null && refs.length > 0 && refs.length <= mostNamed;
  const [set, known, open] = await Promise.all([
    isNamed ? branchesSet(directory, refs) : null,
    refsKnown(deps.db, repositoryId),
    openPullRequests(deps.db, repositoryId),
  ]);
  const own = set ?? (await refsOf(directory));
  const heads = await headsOf(directory, open, own, set === null);
  // Of the refs that stand at heads only those of open pull requests count.
  const plain = [...own].filter(([ref]) => pullRequestOf(ref) === undefined);
  const seen = new Map([...plain, ...heads.refs]);
  const before = set === null ? known : new Map([...known].filter(([ref]) => seen.has(ref)));
  const moved = movedRefs(before, seen);
  const ends = await endedOf(directory, open, heads, own, new Set(moved.map((one) => one.ref)));
  const over = new Set(ends.map(({ pull }) => refOfPullRequest(pull.number)));
  return {
    open,
    ends,
    moved: [...moved.filter((one) => !over.has(one.ref)), ...leaving(known, over)],
  };
}

/** The heads of pull requests that have ended are followed no more. */
function leaving(
  known: ReadonlyMap<RefName, CommitId>,
  over: ReadonlySet<RefName>,
): readonly MovedRef[] {
  return [...over].flatMap((ref) => {
    const from = known.get(ref);
    return from === undefined ? [] : [{ ref, from, to: null }];
  });
}
