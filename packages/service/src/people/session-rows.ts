import type { Digest, Instant } from '@vaquero/core';
import { and, desc, eq, gt, inArray, lt, ne } from 'drizzle-orm';
import { beginsWith } from '../database/columns.ts';
import type { Db, Tx } from '../database/pool.ts';
import { sessions } from '../database/tables.ts';

export async function insertSession(
  tx: Tx,
  session: { hash: Digest; personId: string; madeAt: Instant; expiresAt: Instant },
): Promise<void> {
  await tx.insert(sessions).values(session);
}

export async function personOfSession(
  db: Db,
  hash: Digest,
  at: Instant,
): Promise<string | undefined> {
  const [row] = await db
    .select({ personId: sessions.personId })
    .from(sessions)
    .where(and(eq(sessions.hash, hash), gt(sessions.expiresAt, at)));
  return row?.personId;
}

export async function deleteSession(tx: Tx, hash: Digest): Promise<void> {
  await tx.delete(sessions).where(eq(sessions.hash, hash));
}

/** A person's sessions that hold, the newest first. */
export async function sessionsOf(
  db: Db,
  personId: string,
  now: Instant,
): Promise<readonly { hash: Digest; madeAt: number; expiresAt: number }[]> {
  return db
    .select({ hash: sessions.hash, madeAt: sessions.madeAt, expiresAt: sessions.expiresAt })
    .from(sessions)
    .where(and(eq(sessions.personId, personId), gt(sessions.expiresAt, now)))
    .orderBy(desc(sessions.madeAt));
}

/** Ends a person's session by the beginning of its hash; false where there is none. */
export async function deleteSessionOf(tx: Tx, personId: string, id: string): Promise<boolean> {
  if (!/^[0-9a-f]{16}$/.test(id)) return false;
  const [done] = await tx
    .delete(sessions)
    .where(and(eq(sessions.personId, personId), beginsWith(sessions.hash, id)));
  return done.affectedRows > 0;
}

/** Ends every session of a person but one; returns how many. */
export async function deleteOtherSessions(
  tx: Tx,
  personId: string,
  but: Digest | null,
): Promise<number> {
  const others = but === null ? [] : [ne(sessions.hash, but)];
  const [done] = await tx.delete(sessions).where(and(eq(sessions.personId, personId), ...others));
  return done.affectedRows;
}

/** Forgets sessions that ended before an instant. */
export async function deleteSessionsBefore(db: Db, at: Instant): Promise<void> {
  await db.delete(sessions).where(lt(sessions.expiresAt, at));
}

/** The ids of people who are signed in in some browser. */
export async function peopleSignedIn(tx: Tx): Promise<readonly string[]> {
  const rows = await tx.selectDistinct({ id: sessions.personId }).from(sessions);
  return rows.map((row) => row.id);
}

/** Ends every session of some people; returns how many. */
export async function deleteSessionsOf(tx: Tx, personIds: readonly string[]): Promise<number> {
  if (personIds.length === 0) return 0;
  const [done] = await tx.delete(sessions).where(inArray(sessions.personId, [...personIds]));
  return done.affectedRows;
}
