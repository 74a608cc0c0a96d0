import type { HeldGrant, Member, MemberKind, Role } from '@vaquero/core';
import { and, asc, eq, inArray, isNull, or, type SQL } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Db, Tx } from '../database/pool.ts';
import { grants, groupMembers, people } from '../database/tables.ts';

const group = alias(people, 'group_of');

/** A member's own grants, and those of the groups which they are in. */
export async function grantsOf(db: Db | Tx, personId: string): Promise<readonly HeldGrant[]> {
  const [own, byGroups] = await Promise.all([
    db
      .select({ project: grants.projectId, role: grants.role })
      .from(grants)
      .where(eq(grants.personId, personId)),
    db
      .select({ project: grants.projectId, role: grants.role, group: group.name })
      .from(groupMembers)
      .innerJoin(group, eq(group.id, groupMembers.groupId))
      .innerJoin(grants, eq(grants.personId, groupMembers.groupId))
      .where(eq(groupMembers.personId, personId)),
  ]);
  return [...own.map((grant) => ({ ...grant, group: null })), ...byGroups];
}

/** Somebody, a group or a service, with all that it was granted by itself or by groups. */
export interface GrantedMember extends Member {
  readonly kind: MemberKind;
  readonly grants: readonly HeldGrant[];
}

/** Everybody who has a role in one of some projects or everywhere, by name, each with those grants; groups and services, too. */
export async function membersOf(
  db: Db | Tx,
  projectIds: readonly string[],
): Promise<readonly GrantedMember[]> {
  return membersWhere(db, or(inArray(grants.projectId, [...projectIds]), isNull(grants.projectId)));
}

/** Everybody, every group and every service, by name, with every grant. */
export async function everybody(db: Db): Promise<readonly GrantedMember[]> {
  const [memberships, granted, all] = await Promise.all([
    membershipsOf(db),
    membersWhere(db, undefined),
    db
      .select({ name: people.name, shownAs: people.shownAs, kind: people.kind })
      .from(people)
      .where(isNull(people.endedAt))
      .orderBy(asc(people.name)),
  ]);
  const byName = new Map(granted.map((member) => [member.name, member]));
  return all.map(
    (one) =>
      byName.get(one.name) ?? { ...one, groups: memberships.get(one.name) ?? [], grants: [] },
  );
}

async function membersWhere(
  db: Db | Tx,
  where: SQL | undefined,
): Promise<readonly GrantedMember[]> {
  const who = { name: people.name, shownAs: people.shownAs, kind: people.kind };
  const what = { project: grants.projectId, role: grants.role };
  const [memberships, own, byGroups] = await Promise.all([
    membershipsOf(db),
    db
      .select({ ...who, ...what })
      .from(grants)
      .innerJoin(people, eq(people.id, grants.personId))
      .where(where),
    db
      .select({ ...who, ...what, group: group.name })
      .from(grants)
      .innerJoin(group, eq(group.id, grants.personId))
      .innerJoin(groupMembers, eq(groupMembers.groupId, grants.personId))
      .innerJoin(people, eq(people.id, groupMembers.personId))
      .where(where),
  ]);
  const members = new Map<string, GrantedMember & { grants: HeldGrant[] }>();
  const all = [...own.map((row) => ({ ...row, group: null })), ...byGroups];
  for (const { name, shownAs, kind, project, role, group: by } of all) {
    const groups = memberships.get(name) ?? [];
    const member = members.get(name) ?? { name, shownAs, kind, groups, grants: [] };
    member.grants.push({ project, role, group: by });
    members.set(name, member);
  }
  return [...members.values()].sort((one, other) => (one.name < other.name ? -1 : 1));
}

/** The groups that everybody is in, by the names of both. */
async function membershipsOf(db: Db | Tx): Promise<ReadonlyMap<string, readonly string[]>> {
  const rows = await db
    .select({ name: people.name, group: group.name })
    .from(groupMembers)
    .innerJoin(people, eq(people.id, groupMembers.personId))
    .innerJoin(group, eq(group.id, groupMembers.groupId))
    .orderBy(asc(group.name));
  const all = new Map<string, string[]>();
  for (const { name, group: of } of rows) all.set(name, [...(all.get(name) ?? []), of]);
  return all;
}

export async function insertGrant(
  tx: Tx,
  grant: { id: string; personId: string; projectId: string | null; role: Role },
): Promise<void> {
  await tx.insert(grants).values(grant);
}

/** Locks the operators' grants, and with them whoever else grants; returns the ids of the operators. */
export async function lockGrants(tx: Tx): Promise<readonly string[]> {
  const rows = await tx
    .select({ personId: grants.personId })
    .from(grants)
    .where(and(isNull(grants.projectId), eq(grants.role, 'operator')))
    .for('update');
  return rows.map(({ personId }) => personId);
}

/** Puts a role in place of what a member had in a project, or in the installation; none for null. */
export async function setGrant(
  tx: Tx,
  grant: { id: string; personId: string; projectId: string | null; role: Role | null },
): Promise<void> {
  const { id, personId, projectId, role } = grant;
  const place = projectId === null ? isNull(grants.projectId) : eq(grants.projectId, projectId);
  await tx.delete(grants).where(and(eq(grants.personId, personId), place));
  if (role !== null) await tx.insert(grants).values({ id, personId, projectId, role });
}

/** Takes all that a group or a service was granted. */
export async function dropGrants(tx: Tx, personId: string): Promise<void> {
  await tx.delete(grants).where(eq(grants.personId, personId));
}
