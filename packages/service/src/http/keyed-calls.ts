import { setTimeout as pause } from 'node:timers/promises';
import type { Digest, Instant } from '@vaquero/core';
import { and, eq, lt } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { keyedCalls } from '../database/tables.ts';
import { isDuplicate, onCommit } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { refused } from '../refused.ts';

/** A claim whose process died is free again after this long. */
const abandonedMs = 60_000;
/** How often, 50 ms apart, a call that is still being carried out is looked at again. */
const patience = 20;
const keptMs = 24 * 3_600_000;

/** One call under an idempotency key: whose, and which call it was. */
export interface KeyedCall {
  readonly actorId: string;
  readonly key: string;
  readonly call: Digest;
}

/** The reply that a call got which was carried out before. */
export interface KeptReply {
  readonly status: number;
  readonly reply: string;
}

/** The key of a call was claimed before: by the same call, or by another one. */
export class KeyTaken extends Error {
  override readonly name = 'KeyTaken';
}

/** Claims the key of a call before it is carried out. Throws KeyTaken. */
export async function claimKey(db: Db, keyed: KeyedCall, at: Instant): Promise<void> {
  try {
    await insertClaim(db, keyed, at);
  } catch (error) {
    if (isDuplicate(error)) throw new KeyTaken();
    throw error;
  }
}

/**
 * Claims the key of a call in the transaction of what it does: claim and deed are one, and neither costs a write of
 * its own. The transaction fails as a duplicate where the key is taken.
 */
export function claimOnCommit(tx: Tx, keyed: KeyedCall, at: Instant): void {
  onCommit(tx, insertClaim(tx, keyed, at));
}

function insertClaim(db: Db | Tx, keyed: KeyedCall, at: Instant) {
  return db.insert(keyedCalls).values({ ...keyed, at, status: null, reply: null });
}

/**
 * What became of a call whose key is taken: its reply, which is waited for while it is carried out; or null when
 * nobody holds the key, or whoever did died with it: then it is free again.
 * Refuses: still-running, key-used-otherwise.
 */
export async function keptReply(deps: Deps, keyed: KeyedCall): Promise<KeptReply | null> {
  const at = deps.clock();
  for (let waits = 0; ; waits += 1) {
    const row = await rowOf(deps, keyed);
    if (row === undefined) return null;
    if (row.call !== keyed.call) return refused({ code: 'key-used-otherwise', key: keyed.key });
    if (row.status !== null && row.reply !== null) return { status: row.status, reply: row.reply };
    if (at - row.at >= abandonedMs) {
      await freeKey(deps, keyed);
      return null;
    }
    // The first call is about to end: whoever asks again is given its reply, if it comes soon.
    if (waits === patience) return refused({ code: 'still-running', key: keyed.key });
    await pause(50);
  }
}

async function rowOf(deps: Deps, { actorId, key }: KeyedCall) {
  const [row] = await deps.db
    .select()
    .from(keyedCalls)
    .where(and(eq(keyedCalls.actorId, actorId), eq(keyedCalls.key, key)));
  return row;
}

/** Keeps the reply of a call that was carried out, for a day. */
export async function keepReply(
  deps: Deps,
  { actorId, key }: KeyedCall,
  { status, reply }: KeptReply,
): Promise<void> {
  await deps.db
    .update(keyedCalls)
    .set({ status, reply })
    .where(and(eq(keyedCalls.actorId, actorId), eq(keyedCalls.key, key)));
}

/** Frees the key of a call that was refused or failed: nothing was done, so it may be tried again. */
export async function freeKey(deps: Deps, { actorId, key }: KeyedCall): Promise<void> {
  await deps.db
    .delete(keyedCalls)
    .where(and(eq(keyedCalls.actorId, actorId), eq(keyedCalls.key, key)));
}

/** Forgets replies older than a day. */
export async function sweepKeys(deps: Deps): Promise<void> {
  await deps.db.delete(keyedCalls).where(lt(keyedCalls.at, deps.clock() - keptMs));
}
