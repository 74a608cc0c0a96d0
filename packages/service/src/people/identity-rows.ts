import type { Instant } from '@vaquero/core';
import { and, eq } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { identities, people } from '../database/tables.ts';
import type { PersonRow } from './people-rows.ts';

/** Who somebody elsewhere is here. */
export async function personOfIdentity(
  db: Db | Tx,
  issuer: string,
  subject: string,
): Promise<PersonRow | undefined> {
  const [row] = await db
    .select({ person: people })
    .from(identities)
    .innerJoin(people, eq(people.id, identities.personId))
    .where(and(eq(identities.issuer, issuer), eq(identities.subject, subject)));
  return row?.person;
}

/** Since when a person is joined with somebody at an issuer. */
export async function identitySince(
  db: Db | Tx,
  personId: string,
  issuer: string,
): Promise<Instant | undefined> {
  const [row] = await db
    .select({ since: identities.since })
    .from(identities)
    .where(and(eq(identities.personId, personId), eq(identities.issuer, issuer)));
  return row?.since as Instant | undefined;
}

/** Joins a person with somebody at an issuer, in place of whom they were joined with there before. Throws where another person is joined with that one. */
export async function putIdentity(tx: Tx, row: typeof identities.$inferInsert): Promise<void> {
  await deleteIdentity(tx, row.personId, row.issuer);
  await tx.insert(identities).values(row);
}

/** False where there was none. */
export async function deleteIdentity(tx: Tx, personId: string, issuer: string): Promise<boolean> {
  const [done] = await tx
    .delete(identities)
    .where(and(eq(identities.personId, personId), eq(identities.issuer, issuer)));
  return done.affectedRows > 0;
}
