import { type CommitId, endSeen, type RefName, refOfBranch, refOfPullRequest } from '@vaquero/core';
import type { PullRequestRow } from '../changes/pull-request-rows.ts';
import { isAncestor, setRefs } from '../repositories/bare-repository.ts';

type Refs = ReadonlyMap<RefName, CommitId>;

/** Where the heads of open pull requests stand, as Git says. */
interface Heads {
  readonly refs: Refs;
  /** Those whose branch is there no more. */
  readonly gone: readonly PullRequestRow[];
}

/**
 * Reads the heads of a repository's open pull requests. `seen` are its own refs as Git has them; where they are only
 * those that a push named, the others are left out. A head elsewhere was brought by whoever follows it: a look asks
 * nobody's host.
 */
export async function headsOf(
  directory: string,
  open: readonly PullRequestRow[],
  seen: Refs,
  isWhole: boolean,
): Promise<Heads> {
  const refs = new Map<RefName, CommitId>();
  const gone: PullRequestRow[] = [];
  const moved = new Map<RefName, CommitId>();
  for (const pull of open) {
    const ref = refOfPullRequest(pull.number);
    const isOwn = pull.from.place === null;
    const source = isOwn ? refOfBranch(pull.from.branch) : ref;
    const head = source === undefined ? undefined : seen.get(source);
    if (head === undefined) {
      if (isOwn && isWhole) gone.push(pull);
      continue;
    }
    refs.set(ref, head);
    if (isOwn && head !== pull.head) moved.set(ref, head);
  }
  await setRefs(directory, moved);
  return { refs, gone };
}

/** An open pull request that a look ends, and how. */
export interface Ended {
  readonly pull: PullRequestRow;
  readonly as: 'merged' | 'closed';
}

/**
 * Which pull requests a look ends: those whose commits are in their target by now, and those whose branch is gone.
 * Only targets that moved are asked, since each asks Git.
 */
export async function endedOf(
  directory: string,
  open: readonly PullRequestRow[],
  { refs, gone }: Heads,
  seen: Refs,
  moved: ReadonlySet<RefName>,
): Promise<readonly Ended[]> {
  const all = await Promise.all(
    open.map(async (pull): Promise<readonly Ended[]> => {
      const into = refOfBranch(pull.into);
      const target = into === undefined ? undefined : seen.get(into);
      const isGone = gone.includes(pull);
      const head = refs.get(refOfPullRequest(pull.number)) ?? pull.head;
      const isAsked = target !== undefined && (isGone || (into !== undefined && moved.has(into)));
      const isMerged = isAsked && head !== null && (await isAncestor(directory, head, target));
      const as = endSeen({ isMerged, isGone });
      return as === null ? [] : [{ pull, as }];
    }),
  );
  return all.flat();
}
