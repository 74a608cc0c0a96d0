import type { CommitId } from '@vaquero/core';
import { refused } from '../base/refused.ts';
import type { Caller } from '../people/caller.ts';
import { authorHere, mergeOf, writeCommit } from '../repositories/merge-commits.ts';

/** Two commits of a pull request that are to become one. */
interface Joining {
  /** The pull request. */
  readonly name: string;
  /** What moves on, and what it is called. */
  readonly base: CommitId;
  readonly baseIs: string;
  /** What is brought to it. */
  readonly other: CommitId;
}

/**
 * The commit that a branch moves on to: the one that it stands at where that has all of the other already, the other where
 * that has all of it, else a new one of both. Refuses: merge-conflicts.
 */
export async function joined(
  directory: string,
  { name, base, baseIs, other }: Joining,
  caller: Caller,
  { message }: { readonly message: string },
): Promise<CommitId> {
  const merge = await mergeOf(directory, base, other);
  if (merge.how === 'nothing') return base;
  if (merge.how === 'fast-forward') return other;
  if (merge.how !== 'commit')
    return refused({
      code: 'merge-conflicts',
      name,
      into: baseIs,
      paths: merge.how === 'conflicts' ? merge.paths : [],
      why: merge.how === 'impossible' ? merge.why : null,
    });
  const words = { ...authorHere(caller), message };
  return writeCommit(directory, merge.tree, [base, other], words);
}
