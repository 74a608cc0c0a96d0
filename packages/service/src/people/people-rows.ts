import type { Instant, MemberKind } from '@vaquero/core';
import { and, asc, eq, inArray, isNull, max } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { people, sessions, tokens } from '../database/tables.ts';

export interface PersonRow {
  readonly id: string;
  readonly name: string;
  readonly shownAs: string;
  readonly passwordHash: string | null;
  readonly kind: MemberKind;
  /** The project of a service. */
  readonly homeId: string | null;
  readonly endedAt: number | null;
}

/** What all who are just made have in common. */
export const asPerson = { kind: 'person', homeId: null, endedAt: null } as const;

export async function personByName(db: Db | Tx, name: string): Promise<PersonRow | undefined> {
  const [row] = await db.select().from(people).where(eq(people.name, name));
  return row;
}

export async function personById(db: Db | Tx, id: string): Promise<PersonRow | undefined> {
  const [row] = await db.select().from(people).where(eq(people.id, id));
  return row;
}

/** How people of some ids are shown. */
export async function peopleShownAs(
  db: Db | Tx,
  ids: readonly string[],
): Promise<ReadonlyMap<string, string>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: people.id, shownAs: people.shownAs })
    .from(people)
    .where(inArray(people.id, [...new Set(ids)]));
  return new Map(rows.map(({ id, shownAs }) => [id, shownAs]));
}

/** People by their ids: what they are called and shown as. */
export async function peopleByIds(
  db: Db | Tx,
  ids: readonly string[],
): Promise<ReadonlyMap<string, { readonly name: string; readonly shownAs: string }>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: people.id, name: people.name, shownAs: people.shownAs })
    .from(people)
    .where(inArray(people.id, [...new Set(ids)]));
  return new Map(rows.map(({ id, ...row }) => [id, row]));
}

/** Every group, or every service of a project, that has not ended, by name. */
export async function membersOfKind(
  db: Db | Tx,
  kind: MemberKind,
  homeId: string | null,
): Promise<readonly PersonRow[]> {
  const home = homeId === null ? isNull(people.homeId) : eq(people.homeId, homeId);
  return db
    .select()
    .from(people)
    .where(and(eq(people.kind, kind), home, isNull(people.endedAt)))
    .orderBy(asc(people.name));
}

/** Ends a group or a service; its name stays taken. */
export async function endMember(tx: Tx, id: string, at: Instant): Promise<void> {
  await tx.update(people).set({ endedAt: at }).where(eq(people.id, id));
}

/** Whether the installation knows anybody at all. */
export async function anybody(db: Db | Tx): Promise<boolean> {
  return (await db.select({ id: people.id }).from(people).limit(1)).length > 0;
}

export async function insertPerson(
  tx: Tx,
  person: PersonRow & { readonly madeAt: Instant },
): Promise<void> {
  await tx.insert(people).values(person);
}

/** When people of some names called last: by a token, or by opening a session. */
export async function lastSeen(
  db: Db,
  names: readonly string[],
): Promise<ReadonlyMap<string, Instant>> {
  if (names.length === 0) return new Map();
  const are = inArray(people.name, [...names]);
  const [byToken, bySession] = await Promise.all([
    db
      .select({ name: people.name, at: max(tokens.lastUsedAt) })
      .from(people)
      .innerJoin(tokens, eq(tokens.personId, people.id))
      .where(are)
      .groupBy(people.name),
    db
      .select({ name: people.name, at: max(sessions.madeAt) })
      .from(people)
      .innerJoin(sessions, eq(sessions.personId, people.id))
      .where(are)
      .groupBy(people.name),
  ]);
  const seen = new Map<string, Instant>();
  for (const { name, at } of [...byToken, ...bySession])
    if (at !== null) seen.set(name, Math.max(at, seen.get(name) ?? 0) as Instant);
  return seen;
}

export async function setPasswordHash(tx: Tx, personId: string, hash: string): Promise<void> {
  await tx.update(people).set({ passwordHash: hash }).where(eq(people.id, personId));
}
