import type { Digest, Json } from '@vaquero/core';
import { and, eq, lt } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import type { Db, Tx } from '../database/pool.ts';
import { keyedCalls } from '../database/tables.ts';
import { onCommit } from '../database/transaction.ts';

const keptMs = 24 * 3_600_000;

/** One call under an idempotency key: whose, and which call it was. */
export interface KeyedCall {
  readonly actorId: string;
  readonly key: string;
  readonly call: Digest;
}

/** Proof that an act has put its outcome beside its deed: only a transaction gives it. */
export class Done<Kept extends Json> {
  readonly #kept: Kept;

  private constructor(kept: Kept) {
    this.#kept = kept;
  }

  /** What is to be answered with. */
  get kept(): Kept {
    return this.#kept;
  }

  /** Writes the outcome of an act with its transaction, under the key of its call if that has one. */
  static inside<Kept extends Json>(
    deps: Deps,
    tx: Tx,
    keyed: KeyedCall | null,
    kept: Kept,
    isSecret: boolean,
  ): Done<Kept> {
    if (keyed !== null) {
      const row = { ...keyed, at: deps.clock(), kept: isSecret ? null : JSON.stringify(kept) };
      onCommit(tx, tx.insert(keyedCalls).values(row));
    }
    return new Done(kept);
  }
}

/** Notes, in the transaction of an act, that it is done and what came of it: little enough to find it again. */
export type NoteDone = <Kept extends Json>(tx: Tx, kept: Kept) => Done<Kept>;

/** What came of a call that was carried out before; undefined for one that was not. */
export async function keptCall(db: Db, { actorId, key }: KeyedCall) {
  const [row] = await db
    .select()
    .from(keyedCalls)
    .where(and(eq(keyedCalls.actorId, actorId), eq(keyedCalls.key, key)));
  return row;
}

/** Forgets what came of calls after a day. */
export async function sweepKeys(deps: Deps): Promise<void> {
  await deps.db.delete(keyedCalls).where(lt(keyedCalls.at, deps.clock() - keptMs));
}
