import type { Digest, Instant } from '@vaquero/core';
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { mailAddresses, people } from '../database/tables.ts';
import type { PersonRow } from './people-rows.ts';

export type MailRow = typeof mailAddresses.$inferSelect;

export async function mailOf(db: Db | Tx, personId: string): Promise<readonly MailRow[]> {
  return db
    .select()
    .from(mailAddresses)
    .where(eq(mailAddresses.personId, personId))
    .orderBy(asc(mailAddresses.address));
}

/** Writes an address with the link that is sent to it; one that is there gets another link, and stays what it was. */
export async function putMail(
  db: Db,
  row: Pick<MailRow, 'id' | 'personId' | 'address' | 'addedAt' | 'keyHash' | 'keyUntil'>,
): Promise<void> {
  const { keyHash, keyUntil } = row;
  await db.insert(mailAddresses).values(row).onDuplicateKeyUpdate({ set: { keyHash, keyUntil } });
}

/** The address whose link has a key, locked. */
export async function mailByKey(tx: Tx, keyHash: Digest): Promise<MailRow | undefined> {
  const [row] = await tx
    .select()
    .from(mailAddresses)
    .where(eq(mailAddresses.keyHash, keyHash))
    .for('update');
  return row;
}

/** Throws a duplicate where somebody else has proven it. */
export async function setProven(tx: Tx, { id, address }: MailRow, at: Instant): Promise<void> {
  await tx
    .update(mailAddresses)
    .set({ provenAs: address, provenAt: at, keyHash: null, keyUntil: null })
    .where(eq(mailAddresses.id, id));
}

/** Returns what was taken away; undefined when there was none. */
export async function deleteMail(
  tx: Tx,
  personId: string,
  address: string,
): Promise<MailRow | undefined> {
  const which = and(eq(mailAddresses.personId, personId), eq(mailAddresses.address, address));
  const [row] = await tx.select().from(mailAddresses).where(which).for('update');
  if (row !== undefined) await tx.delete(mailAddresses).where(eq(mailAddresses.id, row.id));
  return row;
}

/** Whose mail addresses are, by those that they have proven. */
export async function peopleByMail(
  db: Db | Tx,
  addresses: readonly (string | null)[],
): Promise<ReadonlyMap<string, PersonRow>> {
  const asked = [...new Set(addresses.flatMap((address) => address ?? []))];
  if (asked.length === 0) return new Map();
  const rows = await db
    .select({ address: mailAddresses.provenAs, person: people })
    .from(mailAddresses)
    .innerJoin(people, eq(people.id, mailAddresses.personId))
    .where(inArray(mailAddresses.provenAs, asked));
  return new Map(
    rows.flatMap(({ address, person }) => (address === null ? [] : [[address, person]])),
  );
}
