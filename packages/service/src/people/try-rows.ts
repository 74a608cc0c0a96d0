import type { Instant } from '@vaquero/core';
import { eq, lt, sql } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { signInTries } from '../database/tables.ts';

/** Failed and open tries of a subject, the row locked until the transaction ends; one is made where there is none. */
export async function lockTries(
  tx: Tx,
  subject: string,
): Promise<{ failures: number; lastAt: number }> {
  await tx
    .insert(signInTries)
    .values({ subject, failures: 0, lastAt: 0 })
    .onDuplicateKeyUpdate({ set: { subject } });
  const [row] = await tx
    .select()
    .from(signInTries)
    .where(eq(signInTries.subject, subject))
    .for('update');
  return row ?? { failures: 0, lastAt: 0 };
}

/** Writes how often a subject has tried. */
export async function setTries(
  tx: Tx,
  subject: string,
  tries: { readonly failures: number; readonly lastAt: Instant },
): Promise<void> {
  await tx.update(signInTries).set(tries).where(eq(signInTries.subject, subject));
}

/** Takes back one try that turned out to be no failure. */
export async function takeBackTry(db: Db, subject: string): Promise<void> {
  await db
    .update(signInTries)
    .set({ failures: sql`greatest(${signInTries.failures} - 1, 0)` })
    .where(eq(signInTries.subject, subject));
}

/** Forgets the tries of all who have made none since. */
export async function forgetTriesBefore(db: Db, at: number): Promise<void> {
  await db.delete(signInTries).where(lt(signInTries.lastAt, at));
}

export async function forgetFailures(db: Db, subject: string): Promise<void> {
  await db.delete(signInTries).where(eq(signInTries.subject, subject));
}
