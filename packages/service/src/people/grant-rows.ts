import type { Grant, Member, Role } from '@vaquero/core';
import { and, asc, eq, inArray, isNull, or } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { grants, people } from '../database/tables.ts';

export async function grantsOf(
  db: Db | Tx,
  personId: string,
): Promise<readonly { project: string | null; role: Role }[]> {
  return db
    .select({ project: grants.projectId, role: grants.role })
    .from(grants)
    .where(eq(grants.personId, personId));
}

/** Everybody who has a role in one of some projects or everywhere, by name, each with those grants. */
export async function membersOf(
  db: Db | Tx,
  projectIds: readonly string[],
): Promise<readonly Member[]> {
  const rows = await db
    .select({
      name: people.name,
      shownAs: people.shownAs,
      project: grants.projectId,
      role: grants.role,
    })
    .from(grants)
    .innerJoin(people, eq(people.id, grants.personId))
    .where(or(inArray(grants.projectId, [...projectIds]), isNull(grants.projectId)))
    .orderBy(asc(people.name));
  const members = new Map<string, Member & { grants: Grant[] }>();
  for (const { name, shownAs, project, role } of rows) {
    const member = members.get(name) ?? { name, shownAs, grants: [] };
    member.grants.push({ project, role });
    members.set(name, member);
  }
  return [...members.values()];
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

/** Puts a role in place of what a person had in a project, or in the installation; none for null. */
export async function setGrant(
  tx: Tx,
  grant: { id: string; personId: string; projectId: string | null; role: Role | null },
): Promise<void> {
  const { id, personId, projectId, role } = grant;
  const place = projectId === null ? isNull(grants.projectId) : eq(grants.projectId, projectId);
  await tx.delete(grants).where(and(eq(grants.personId, personId), place));
  if (role !== null) await tx.insert(grants).values({ id, personId, projectId, role });
}

/** Everybody, by name, with every grant. */
export async function everybody(db: Db): Promise<readonly Member[]> {
  const rows = await db
    .select({
      name: people.name,
      shownAs: people.shownAs,
      project: grants.projectId,
      role: grants.role,
    })
    .from(people)
    .leftJoin(grants, eq(grants.personId, people.id))
    .orderBy(asc(people.name));
  const all = new Map<string, Member & { grants: Grant[] }>();
  for (const { name, shownAs, project, role } of rows) {
    const member = all.get(name) ?? { name, shownAs, grants: [] };
    if (role !== null) member.grants.push({ project, role });
    all.set(name, member);
  }
  return [...all.values()];
}
