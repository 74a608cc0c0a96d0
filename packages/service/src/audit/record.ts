import { createHash, randomBytes } from 'node:crypto';
import {
  type Actor,
  type Digest,
  encodeEntry,
  type Instant,
  leafHash,
  type MadeDecision,
} from '@vaquero/core';
import { eq, sql } from 'drizzle-orm';
import { Impossible } from '../base/refused.ts';
import { madeOnce } from '../database/made-once.ts';
import type { Db, Tx } from '../database/pool.ts';
import { logEntries, logHead, logPersonal } from '../database/tables.ts';
import { afterCommit, lastly, onCommit, type Unit, unitOf } from '../database/transaction.ts';

/** Who does something, through what, and from where. */
export interface Doing {
  readonly actor: Actor;
  readonly through: string;
  /** The address the call came from; null for what Vaquero does by itself. */
  readonly origin: string | null;
  /** The id of the call; null outside of calls. */
  readonly request: string | null;
}

/** A decision to put on record. */
export type Decided = MadeDecision & {
  readonly at: Instant;
  readonly project: { readonly id: string; readonly name: string } | null;
  readonly doing: Doing;
  /** The reason that somebody gave. */
  readonly why?: string | null;
};

/** A decision of a transaction that goes on; where it stands in the log is known when it commits. */
export interface Placed {
  /** Throws before the transaction has ended its work. */
  readonly position: number;
}

/** What Vaquero does by itself. */
export const byVaquero: Doing = {
  actor: { kind: 'vaquero', id: 'vaquero', by: null },
  through: 'vaquero',
  origin: null,
  request: null,
};

/** What a person does: by which token or session, from where and in which call, as far as that is known. */
export function byPerson(
  id: string,
  through: string,
  from: Partial<Pick<Doing, 'origin' | 'request'> & Pick<Actor, 'by'>> = {},
): Doing {
  const { by = null, origin = null, request = null } = from;
  return { actor: { kind: 'person', id, by }, through, origin, request };
}

/** What a runner or an edge does. */
export function byMachine(id: string, role: 'runner' | 'edge'): Doing {
  return { ...byVaquero, actor: { kind: 'machine', id, by: null }, through: role };
}

export function sha256(text: string): Digest {
  return createHash('sha256').update(text, 'utf8').digest('hex') as Digest;
}

interface Row {
  readonly decided: Decided;
  place: number | null;
}

/** Decisions of transactions that go on. */
const open = new WeakMap<Unit, Row[]>();
/** Who wants to know that something was decided here. */
const listeners = new WeakMap<Db, Set<() => void>>();

/** Says whenever a transaction of this process has put something on record. Returns the way to end that. */
export function whenDecided(db: Db, listener: () => void): () => void {
  const those = listeners.get(db) ?? new Set();
  listeners.set(db, those.add(listener));
  return () => void those.delete(listener);
}

/**
 * Puts a decision on record with its transaction. All decisions of one take their positions together, from the one
 * head row and as the last lock, when its work is done: whoever decides much at once lets nobody else wait for it,
 * and no two transactions can wait for each other there. That lock is held until the commit, so positions follow the
 * order of commits (auto-increment does not), and whoever read up to one has missed nothing before it.
 */
export function decide(tx: Tx, decided: Decided): Placed {
  const row: Row = { decided, place: null };
  const unit = unitOf(tx);
  const list = open.get(unit);
  if (list !== undefined) list.push(row);
  else {
    const first = [row];
    open.set(unit, first);
    lastly(tx, () => writeDown(tx, first));
    afterCommit(tx, () => {
      for (const listener of listeners.get(unit.db) ?? []) listener();
    });
  }
  return {
    get position() {
      if (row.place === null) throw new Impossible('a decision has no position yet');
      return row.place;
    },
  };
}

async function writeDown(tx: Tx, list: readonly Row[]): Promise<void> {
  // LAST_INSERT_ID(expression) hands the new value back with the update itself: one round trip, not two.
  const [head] = await raiseHead(tx).execute({ by: list.length });
  if (head.affectedRows !== 1) throw new Impossible('the log has no head row');
  const first = head.insertId - list.length + 1;
  const entries = list.map((row, index) => {
    row.place = first + index;
    return entryOf(row.decided, row.place);
  });
  // The first look at a large repository decides more than one packet holds.
  for (let at = 0; at < entries.length; at += mostTogether)
    await writeSome(tx, entries.slice(at, at + mostTogether), at + mostTogether >= entries.length);
}

/** So many entries are one statement at most. */
const mostTogether = 1000;

async function writeSome(
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

const raiseHead = madeOnce((db) =>
  db
    .update(logHead)
    .set({ position: sql`last_insert_id(${logHead.position} + ${sql.placeholder('by')})` })
    .where(eq(logHead.id, 1))
    .prepare(),
);

/** The row of a decision at its position, and what of it tells of a person. */
function entryOf(decided: Decided, position: number) {
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
