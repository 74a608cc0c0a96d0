import { createHash, randomBytes } from 'node:crypto';
import {
  type Actor,
  type Digest,
  encodeEntry,
  type Instant,
  type Json,
  leafHash,
} from '@vaquero/core';
import { eq, sql } from 'drizzle-orm';
import { madeOnce } from '../database/made-once.ts';
import type { Tx } from '../database/pool.ts';
import { logEntries, logHead, logPersonal } from '../database/tables.ts';
import { atEnd } from '../database/transaction.ts';
import { Impossible } from '../refused.ts';

/** Who did something, through what, and from where. */
export interface Doing {
  readonly actor: Actor;
  readonly through: string;
  /** The address the call came from; null for what Vaquero does by itself. */
  readonly origin: string | null;
}

/** A decision to put on record. */
export interface Decided {
  readonly at: Instant;
  readonly kind: string;
  readonly projectId: string | null;
  readonly project: string | null;
  readonly doing: Doing;
  readonly facts: { readonly [key: string]: Json };
}

/** What Vaquero does by itself. */
export const byVaquero: Doing = {
  actor: { kind: 'vaquero', id: 'vaquero' },
  through: 'vaquero',
  origin: null,
};

export function sha256(text: string): Digest {
  return createHash('sha256').update(text, 'utf8').digest('hex') as Digest;
}

/** Puts a decision on record, as the last statement of its transaction. Returns its position. */
export async function record(tx: Tx, decided: Decided): Promise<number> {
  return recordAll(tx, [decided]);
}

/**
 * Puts decisions on record, as the last statements of their transaction: they take the next positions from
 * the one head row, whose lock makes positions follow the order of commits (auto-increment does not); the
 * entries themselves are written with the commit.
 * Returns the position of the last.
 */
export async function recordAll(tx: Tx, all: readonly Decided[]): Promise<number> {
  // LAST_INSERT_ID(expression) hands the new value back with the update itself: one round trip, not two.
  const [head] = await raiseHead(tx).execute({ by: all.length });
  if (head.affectedRows !== 1) throw new Impossible('the log has no head row');
  const last = head.insertId;
  const entries = all.map((decided, place) => entryOf(decided, last - all.length + 1 + place));
  atEnd(tx, tx.insert(logEntries).values(entries.map((one) => one.entry)));
  const personal = entries.flatMap((one) => (one.personal === null ? [] : [one.personal]));
  if (personal.length > 0) atEnd(tx, tx.insert(logPersonal).values(personal));
  return last;
}

const raiseHead = madeOnce((db) =>
  db
    .update(logHead)
    .set({ position: sql`last_insert_id(${logHead.position} + ${sql.placeholder('by')})` })
    .where(eq(logHead.id, 1))
    .prepare(),
);

/** The row of a decision at its position, and what of it tells of a person. */
function entryOf(decided: Decided, position: number) {
  const { origin } = decided.doing;
  const salt = randomBytes(16).toString('hex');
  const bytes = encodeEntry({
    position,
    at: decided.at,
    kind: decided.kind,
    project: decided.project,
    actor: decided.doing.actor,
    through: decided.doing.through,
    origin: origin === null ? null : sha256(`${salt}${origin}`),
    facts: decided.facts,
  });
  return {
    entry: {
      position,
      at: decided.at,
      kind: decided.kind,
      projectId: decided.projectId,
      bytes,
      leaf: leafHash(bytes, sha256),
    },
    personal: origin === null ? null : { position, field: 'origin', salt, value: origin },
  };
}
