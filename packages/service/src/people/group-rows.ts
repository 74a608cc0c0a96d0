import type { Instant } from '@vaquero/core';
import { and, asc, eq } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { groupMembers, people } from '../database/tables.ts';

/** The names of the groups that somebody is in. */
export async function groupsOf(db: Db | Tx, personId: string): Promise<readonly string[]> {
  const rows = await db
    .select({ name: people.name })
    .from(groupMembers)
    .innerJoin(people, eq(people.id, groupMembers.groupId))
    .where(eq(groupMembers.personId, personId))
    .orderBy(asc(people.name));
  return rows.map(({ name }) => name);
}

/** Who is in which group, by the group's id. */
export async function membersOfGroups(
  db: Db,
): Promise<ReadonlyMap<string, readonly { name: string; shownAs: string; since: Instant }[]>> {
  const rows = await db
    .select({
      group: groupMembers.groupId,
      name: people.name,
      shownAs: people.shownAs,
      since: groupMembers.since,
    })
    .from(groupMembers)
    .innerJoin(people, eq(people.id, groupMembers.personId))
    .orderBy(asc(people.name));
  const all = new Map<string, { name: string; shownAs: string; since: Instant }[]>();
  for (const { group, since, ...who } of rows)
    all.set(group, [...(all.get(group) ?? []), { ...who, since: since as Instant }]);
  return all;
}

/** Puts somebody into a group; false where they are in it. */
export async function insertGroupMember(
  tx: Tx,
  member: { readonly groupId: string; readonly personId: string; readonly since: Instant },
): Promise<boolean> {
  const [done] = await tx.insert(groupMembers).ignore().values(member);
  return done.affectedRows === 1;
}

/** Takes somebody out of a group; false where they are not in it. */
export async function deleteGroupMember(
  tx: Tx,
  groupId: string,
  personId: string,
): Promise<boolean> {
  const [done] = await tx
    .delete(groupMembers)
    .where(and(eq(groupMembers.groupId, groupId), eq(groupMembers.personId, personId)));
  return done.affectedRows === 1;
}

export async function emptyGroup(tx: Tx, groupId: string): Promise<void> {
  await tx.delete(groupMembers).where(eq(groupMembers.groupId, groupId));
}
