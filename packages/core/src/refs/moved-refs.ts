import type { CommitId, RefName } from './ref-name.ts';

/** One movement of a ref between two looks; null stands for "was not there" and "is gone". */
export interface MovedRef {
  readonly ref: RefName;
  readonly from: CommitId | null;
  readonly to: CommitId | null;
}

/** What moved between what was known of a repository's refs and what Git says now, by ref name. */
export function movedRefs(
  known: ReadonlyMap<RefName, CommitId>,
  seen: ReadonlyMap<RefName, CommitId>,
): readonly MovedRef[] {
  const names = [...new Set([...known.keys(), ...seen.keys()])].sort();
  return names
    .map((ref) => ({ ref, from: known.get(ref) ?? null, to: seen.get(ref) ?? null }))
    .filter((move) => move.from !== move.to);
}
