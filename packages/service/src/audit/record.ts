import type { Actor } from '@vaquero/core';
import { Impossible } from '../base/refused.ts';
import type { Db, Tx } from '../database/pool.ts';
import { afterCommit, lastly, type Unit, unitOf } from '../database/transaction.ts';
import type { Decided, Doing } from './doing.ts';
import { entryOf } from './entry-of.ts';
import { raiseHead, writeSome } from './log-writing-rows.ts';

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
