import { randomBytes } from 'node:crypto';
import { type Digest, encodeEntry, leafHash } from '@vaquero/core';
import { eq, sql } from 'drizzle-orm';
import { sha256 } from '../base/sha256.ts';
import { madeOnce } from '../database/made-once.ts';
import type { Tx } from '../database/pool.ts';
import { logEntries, logHead, logPersonal } from '../database/tables.ts';
import { onCommit } from '../database/transaction.ts';
import type { Decided } from './doing.ts';

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

/** The row of a decision at its position, and what of it tells of a person. */
export function entryOf(decided: Decided, position: number) {
  const { origin, request, actor, through } = decided.doing;
  const personal: (typeof logPersonal.$inferInsert)[] = [];
  const apart = (field: string, value: string | null): Digest | null => {
    if (value === null) return null;
    const salt = randomBytes(16).toString('hex');
    personal.push({ position, field, salt, value });
    return sha256(`${salt}${value}`);
  };
  const bytes = encodeEntry({
    form: 2,
    position,
    at: decided.at,
    kind: decided.kind,
    project:
      decided.project === null ? null : { id: decided.project.id, name: decided.project.name },
    who: actor,
    through,
    origin: apart('origin', origin),
    request,
    facts: { ...decided.facts },
    before: decided.before ?? null,
    after: decided.after ?? null,
    why: apart('why', decided.why ?? null),
  });
  return {
    entry: {
      position,
      at: decided.at,
      kind: decided.kind,
      projectId: decided.project?.id ?? null,
      bytes,
      leaf: leafHash(bytes, sha256),
    },
    personal,
  };
}
