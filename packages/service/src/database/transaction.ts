import { setTimeout as pause } from 'node:timers/promises';
import { type SQL, type SQLWrapper, sql } from 'drizzle-orm';
import type { Db, Tx } from './pool.ts';

const deadlock = 1213;
const lockWait = 1205;
const duplicate = 1062;
const tries = 5;

/** What a transaction gathers on its way to the commit. */
export interface Unit {
  readonly db: Db;
  /** Asked for right before the commit: what takes a lock that everybody wants. */
  lastly: (() => Promise<void>) | null;
  readonly statements: Queued[];
  readonly effects: (() => void)[];
}

/** A statement that is carried out with the commit; made then, if what it writes is not known before. */
export type Queued = SQLWrapper | (() => SQLWrapper);

const units = new WeakMap<Tx, Unit>();

/**
 * Runs `work` in one READ COMMITTED transaction. A deadlock or a lock wait is tried again, five times
 * in all, with jitter; any other throw rolls back and goes on to the caller.
 */
export async function inTransaction<T>(db: Db, work: (tx: Tx) => Promise<T>): Promise<T> {
  for (let attempt = 1; ; attempt += 1) {
    try {
      return await runOnce(db, work);
    } catch (error) {
      const number = errnoOf(error);
      if (attempt >= tries || (number !== deadlock && number !== lockWait)) throw error;
      await pause(Math.random() * 20 * 2 ** attempt);
    }
  }
}

/**
 * Puts statements at the end of a transaction: those that nothing in it reads and whose answer nobody needs. They
 * are carried out in their order right before the commit and travel with it, which spares each a round trip. Where
 * one fails, the transaction fails. They write only what is new or locked already: the last lock is taken by then.
 */
export function onCommit(tx: Tx, ...statements: readonly Queued[]): void {
  unitOf(tx).statements.push(...statements);
}

/** Does something once a transaction is committed, and only then. It cannot fail: what may fail has no place there. */
export function afterCommit(tx: Tx, effect: () => void): void {
  unitOf(tx).effects.push(effect);
}

/** Asks for something when the work of a transaction is done, before what `onCommit` was given; once for each transaction. */
export function lastly(tx: Tx, step: () => Promise<void>): void {
  unitOf(tx).lastly = step;
}

/** What a transaction has gathered so far. Throws outside of it. */
export function unitOf(tx: Tx): Unit {
  const unit = units.get(tx);
  if (unit === undefined) throw new Error('this transaction is over');
  return unit;
}

async function runOnce<T>(db: Db, work: (tx: Tx) => Promise<T>): Promise<T> {
  const { tx, giveBack, close } = await db.transactions.lend();
  const unit: Unit = { db, lastly: null, statements: [], effects: [] };
  units.set(tx, unit);
  try {
    const result = await work(tx);
    await unit.lastly?.();
    await commit(tx, unit);
    units.delete(tx);
    giveBack();
    for (const effect of unit.effects) effect();
    return result;
  } catch (error) {
    units.delete(tx);
    await tx.execute(sql`rollback`).then(giveBack, close);
    throw error;
  }
}

/** Commits, with what was put at the end, in one round trip: a compound statement stops at the first failure. */
async function commit(tx: Tx, { statements }: Unit): Promise<void> {
  const last = statements.map((one): SQL => (typeof one === 'function' ? one() : one).getSQL());
  await tx.execute(
    last.length === 0 ? sql`commit` : sql`begin not atomic ${sql.join(last, sql`; `)}; commit; end`,
  );
}

/** The MariaDB error number of a failed query, from wherever in the chain of causes it stands. */
export function errnoOf(error: unknown): number | undefined {
  for (let at = error, depth = 0; at instanceof Error && depth < 5; at = at.cause, depth += 1) {
    if ('errno' in at && typeof at.errno === 'number') return at.errno;
  }
  return undefined;
}

/** Whether a query failed because a unique key already holds the value. */
export function isDuplicate(error: unknown): boolean {
  return errnoOf(error) === duplicate;
}

const awayCodes = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'PROTOCOL_CONNECTION_LOST',
  'ER_SERVER_SHUTDOWN',
  'ENOENT',
  'ER_CONNECTION_KILLED',
]);

/** Whether a query failed because the database does not answer. */
export function isAway(error: unknown): boolean {
  for (let at = error, depth = 0; at instanceof Error && depth < 5; at = at.cause, depth += 1) {
    if ('code' in at && typeof at.code === 'string' && awayCodes.has(at.code)) {
      return (
        'fatal' in at ||
        'syscall' in at ||
        at.code.startsWith('PROTOCOL') ||
        at.code.startsWith('ER_')
      );
    }
    if (at.message.includes("Can't add new command when connection is in closed state"))
      return true;
  }
  return false;
}
