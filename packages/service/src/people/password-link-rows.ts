import type { Digest, Instant } from '@vaquero/core';
import { and, eq, isNull } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { passwordLinks, people } from '../database/tables.ts';
import type { PersonRow } from './people-rows.ts';

export type PasswordLinkRow = typeof passwordLinks.$inferSelect;

/** Writes a link; those that its person had work no more. */
export async function putPasswordLink(tx: Tx, row: PasswordLinkRow): Promise<void> {
  await tx
    .update(passwordLinks)
    .set({ endedAt: row.madeAt })
    .where(
      and(
        eq(passwordLinks.personId, row.personId),
        isNull(passwordLinks.usedAt),
        isNull(passwordLinks.endedAt),
      ),
    );
  await tx.insert(passwordLinks).values(row);
}

/** The link whose key has a hash, with its person; locked where a transaction is to use it. */
export async function passwordLinkByHash(
  db: Db | Tx,
  hash: Digest,
  lock = false,
): Promise<{ readonly row: PasswordLinkRow; readonly person: PersonRow } | undefined> {
  const query = db
    .select({ row: passwordLinks, person: people })
    .from(passwordLinks)
    .innerJoin(people, eq(people.id, passwordLinks.personId))
    .where(eq(passwordLinks.hash, hash));
  const [found] = await (lock ? query.for('update') : query);
  return found;
}

export async function noteLinkUsed(tx: Tx, hash: Digest, at: Instant): Promise<void> {
  await tx.update(passwordLinks).set({ usedAt: at }).where(eq(passwordLinks.hash, hash));
}
