import type { Digest, Instant, Role } from '@vaquero/core';
import { and, count, eq, inArray, isNotNull, isNull } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { people, recoveryWords, secondFactors, signInRules } from '../database/tables.ts';

export type FactorRow = typeof secondFactors.$inferSelect;

/** The second factor of a person, whether it holds or was only begun; locked until the transaction ends, also where there is none. */
export async function lockFactor(tx: Tx, personId: string): Promise<FactorRow | undefined> {
  await tx.insert(secondFactors).values({ personId }).onDuplicateKeyUpdate({ set: { personId } });
  const [row] = await tx
    .select()
    .from(secondFactors)
    .where(eq(secondFactors.personId, personId))
    .for('update');
  return row;
}

/** Since when a person's second factor holds; undefined where they have none. */
export async function factorSince(db: Db | Tx, personId: string): Promise<Instant | undefined> {
  const [row] = await db
    .select({ since: secondFactors.since })
    .from(secondFactors)
    .where(and(eq(secondFactors.personId, personId), isNotNull(secondFactors.sealed)));
  return (row?.since ?? undefined) as Instant | undefined;
}

/** Keeps one that is begun beside the one that holds; the row is locked. */
export async function putNext(tx: Tx, personId: string, nextSealed: Buffer): Promise<void> {
  await tx.update(secondFactors).set({ nextSealed }).where(eq(secondFactors.personId, personId));
}

/** Lets what was begun hold from now on. */
export async function takeNext(
  tx: Tx,
  { personId, nextSealed }: FactorRow,
  { since, step }: { readonly since: Instant; readonly step: number },
): Promise<void> {
  await tx
    .update(secondFactors)
    .set({ sealed: nextSealed, nextSealed: null, since, lastStep: step })
    .where(eq(secondFactors.personId, personId));
}

/** Notes the step of time whose code was used. */
export async function noteStep(tx: Tx, personId: string, lastStep: number): Promise<void> {
  await tx.update(secondFactors).set({ lastStep }).where(eq(secondFactors.personId, personId));
}

/** Ends a second factor with its words, and one that was only begun; false where none held. */
export async function deleteFactor(tx: Tx, personId: string): Promise<boolean> {
  const held = (await lockFactor(tx, personId))?.sealed != null;
  await tx.delete(recoveryWords).where(eq(recoveryWords.personId, personId));
  await tx.delete(secondFactors).where(eq(secondFactors.personId, personId));
  return held;
}

/** Puts new words in the place of all that there were. */
export async function putWords(tx: Tx, personId: string, hashes: readonly Digest[]): Promise<void> {
  await tx.delete(recoveryWords).where(eq(recoveryWords.personId, personId));
  await tx.insert(recoveryWords).values(hashes.map((hash) => ({ hash, personId, usedAt: null })));
}

/** Uses a word up; false where it is none of theirs, or was used. */
export async function useWord(
  tx: Tx,
  personId: string,
  hash: Digest,
  usedAt: Instant,
): Promise<boolean> {
  const [done] = await tx
    .update(recoveryWords)
    .set({ usedAt })
    .where(
      and(
        eq(recoveryWords.hash, hash),
        eq(recoveryWords.personId, personId),
        isNull(recoveryWords.usedAt),
      ),
    );
  return done.affectedRows === 1;
}

export async function wordsLeft(db: Db | Tx, personId: string): Promise<number> {
  const [row] = await db
    .select({ left: count() })
    .from(recoveryWords)
    .where(and(eq(recoveryWords.personId, personId), isNull(recoveryWords.usedAt)));
  return row?.left ?? 0;
}

/** From which role on a second factor is demanded. */
export async function factorDemandedFrom(db: Db | Tx): Promise<Role | null> {
  const [row] = await db.select().from(signInRules).where(eq(signInRules.id, 1));
  return row?.factorFrom ?? null;
}

export async function setFactorDemanded(tx: Tx, factorFrom: Role | null): Promise<void> {
  await tx
    .insert(signInRules)
    .values({ id: 1, factorFrom })
    .onDuplicateKeyUpdate({ set: { factorFrom } });
}

/** Those among some people whose second factor holds. */
export async function havingFactor(
  tx: Tx,
  personIds: readonly string[],
): Promise<ReadonlySet<string>> {
  if (personIds.length === 0) return new Set();
  const rows = await tx
    .select({ id: secondFactors.personId })
    .from(secondFactors)
    .where(and(inArray(secondFactors.personId, [...personIds]), isNotNull(secondFactors.sealed)));
  return new Set(rows.map((row) => row.id));
}

/** The names of everybody whose second factor holds. */
export async function namesHavingFactor(db: Db): Promise<ReadonlySet<string>> {
  const rows = await db
    .select({ name: people.name })
    .from(secondFactors)
    .innerJoin(people, eq(people.id, secondFactors.personId))
    .where(isNotNull(secondFactors.sealed));
  return new Set(rows.map(({ name }) => name));
}
