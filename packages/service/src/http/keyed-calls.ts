import { setTimeout as pause } from 'node:timers/promises';
import { and, eq, lt } from 'drizzle-orm';
import { keyedCalls } from '../database/tables.ts';
import { isDuplicate } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { refused } from '../refused.ts';

/** A claim whose process died is free again after this long. */
const abandonedMs = 60_000;
/** How often, 50 ms apart, a call that is still being carried out is looked at again. */
const patience = 20;
const keptMs = 24 * 3_600_000;

/**
 * Claims an idempotency key for a call. Null: it is ours, carry the call out. A reply: it was carried out.
 * Refuses: still-running, key-used-otherwise.
 */
export async function claimKey(
  deps: Deps,
  actorId: string,
  key: string,
  call: string,
): Promise<{ status: number; reply: string } | null> {
  const at = deps.clock();
  try {
    await deps.db.insert(keyedCalls).values({ actorId, key, call, at, status: null, reply: null });
    return null;
  } catch (error) {
    if (!isDuplicate(error)) throw error;
  }
  for (let waits = 0; ; waits += 1) {
    const row = await rowOf(deps, actorId, key);
    if (row === undefined) return null;
    if (row.call !== call) return refused({ code: 'key-used-otherwise', key });
    if (row.status !== null && row.reply !== null) return { status: row.status, reply: row.reply };
    if (at - row.at >= abandonedMs) return null;
    // The first call is about to end: whoever asks again is given its reply, if it comes soon.
    if (waits === patience) return refused({ code: 'still-running', key });
    await pause(50);
  }
}

async function rowOf(deps: Deps, actorId: string, key: string) {
  const [row] = await deps.db
    .select()
    .from(keyedCalls)
    .where(and(eq(keyedCalls.actorId, actorId), eq(keyedCalls.key, key)));
  return row;
}

/** Keeps the reply of a call that was carried out, for a day. */
export async function keepReply(
  deps: Deps,
  actorId: string,
  key: string,
  status: number,
  reply: string,
): Promise<void> {
  await deps.db
    .update(keyedCalls)
    .set({ status, reply })
    .where(and(eq(keyedCalls.actorId, actorId), eq(keyedCalls.key, key)));
}

/** Frees the key of a call that was refused or failed: nothing was done, so it may be tried again. */
export async function freeKey(deps: Deps, actorId: string, key: string): Promise<void> {
  await deps.db
    .delete(keyedCalls)
    .where(and(eq(keyedCalls.actorId, actorId), eq(keyedCalls.key, key)));
}

/** Forgets replies older than a day. */
export async function sweepKeys(deps: Deps): Promise<void> {
  await deps.db.delete(keyedCalls).where(lt(keyedCalls.at, deps.clock() - keptMs));
}
