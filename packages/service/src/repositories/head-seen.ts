import type { Db, Tx } from '../database/pool.ts';
import { withAuthors } from '../people/authors.ts';
import { type CommitFacts, headOf } from './bare-repository.ts';

/** A commit at the head of something, with who of this installation wrote it. */
export async function headSeen(db: Db | Tx, facts: CommitFacts) {
  const [head] = await withAuthors(db, [headOf(facts)]);
  if (head === undefined) throw new TypeError('of one commit there is one');
  return head;
}
