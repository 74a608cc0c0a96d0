import type { Digest, Instant } from '@vaquero/core';
import { and, desc, eq, gt, isNull } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { invitations, people } from '../database/tables.ts';

export type InvitationRow = typeof invitations.$inferSelect;

/** An invitation with the name of who invites. */
export interface InvitationView {
  readonly row: InvitationRow;
  readonly by: string;
}

export async function insertInvitation(tx: Tx, row: InvitationRow): Promise<void> {
  await tx.insert(invitations).values(row);
}

/** Invitations to a project, or to the installation, that may still be used, the newest first. */
export async function openInvitations(
  db: Db | Tx,
  projectId: string | null,
  now: Instant,
): Promise<readonly InvitationView[]> {
  const of =
    projectId === null ? isNull(invitations.projectId) : eq(invitations.projectId, projectId);
  return db
    .select({ row: invitations, by: people.shownAs })
    .from(invitations)
    .innerJoin(people, eq(people.id, invitations.personId))
    .where(and(of, isNull(invitations.overAt), gt(invitations.expiresAt, now)))
    .orderBy(desc(invitations.madeAt));
}

/** The invitation whose key has a hash; locked where a transaction is to use it. */
export async function invitationByHash(
  db: Db | Tx,
  hash: Digest,
  lock = false,
): Promise<InvitationView | undefined> {
  const query = db
    .select({ row: invitations, by: people.shownAs })
    .from(invitations)
    .leftJoin(people, eq(people.id, invitations.personId))
    .where(eq(invitations.hash, hash));
  const [found] = await (lock ? query.for('update') : query);
  return found === undefined ? undefined : { row: found.row, by: found.by ?? 'Vaquero' };
}

/** Notes that an invitation is over; false where it was already, or is none of that project. */
export async function endInvitationRow(
  tx: Tx,
  id: string,
  over: {
    readonly projectId?: string | null;
    readonly at: Instant;
    readonly usedBy: string | null;
  },
): Promise<boolean> {
  const of =
    over.projectId === undefined
      ? []
      : [
          over.projectId === null
            ? isNull(invitations.projectId)
            : eq(invitations.projectId, over.projectId),
        ];
  const [done] = await tx
    .update(invitations)
    .set({ overAt: over.at, usedBy: over.usedBy })
    .where(and(eq(invitations.id, id), isNull(invitations.overAt), ...of));
  return done.affectedRows === 1;
}
