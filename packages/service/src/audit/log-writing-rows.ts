import { eq, sql } from 'drizzle-orm';
import { madeOnce } from '../database/made-once.ts';
import type { Tx } from '../database/pool.ts';
import { logEntries, logHead, logPersonal } from '../database/tables.ts';
import { onCommit } from '../database/transaction.ts';
import type { entryOf } from './entry-of.ts';

/** Writes entries down, with what of them is personal beside them; the last ones only as their transaction commits. */
export async function writeSome(
  tx: Tx,
  entries: readonly ReturnType<typeof entryOf>[],
  isLast: boolean,
): Promise<void> {
  const personal = entries.flatMap((one) => one.personal);
  const statements = [
    tx.insert(logEntries).values(entries.map((one) => one.entry)),
    ...(personal.length > 0 ? [tx.insert(logPersonal).values(personal)] : []),
  ];
  if (isLast) onCommit(tx, ...statements);
  else for (const statement of statements) await statement;
}

/** Raises the position of the log’s end by so many; the connection knows the new one as its last inserted id. */
export const raiseHead = madeOnce((db) =>
  db
    .update(logHead)
    .set({ position: sql`last_insert_id(${logHead.position} + ${sql.placeholder('by')})` })
    .where(eq(logHead.id, 1))
    .prepare(),
);
