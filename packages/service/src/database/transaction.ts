import { setTimeout as pause } from 'node:timers/promises';
import { type SQL, type SQLWrapper, sql } from 'drizzle-orm';
import type { Db, Tx } from './pool.ts';

const deadlock = 1213;
const lockWait = 1205;
const duplicate = 1062;
const tries = 5;

/** What a transaction carries out right before it commits. */
const endings = new WeakMap<Tx, SQL[]>();

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
 * are carried out in their order right before the commit and travel with it, which spares each a round trip, and
 * whatever it has locked meanwhile is locked for shorter. Where one fails, the transaction fails.
 */
export function atEnd(tx: Tx, ...statements: readonly SQLWrapper[]): void {
  const known = endings.get(tx) ?? [];
  known.push(...statements.map((statement) => statement.getSQL()));
  endings.set(tx, known);
}

async function runOnce<T>(db: Db, work: (tx: Tx) => Promise<T>): Promise<T> {
  const { tx, giveBack, close } = await db.transactions.lend();
  endings.delete(tx);
  try {
    const result = await work(tx);
    await commit(tx);
    giveBack();
    return result;
  } catch (error) {
    await tx.execute(sql`rollback`).then(giveBack, close);
    throw error;
  }
}

/** Commits, with what was put at the end, in one round trip: a compound statement stops at the first failure. */
async function commit(tx: Tx): Promise<void> {
  const last = endings.get(tx) ?? [];
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
