import type { Grant, Instant, Member, Role } from '@vaquero/core';
import { and, asc, desc, eq, gt, inArray, isNull, like, lt, max, ne, or, sql } from 'drizzle-orm';
import { madeOnce } from '../database/made-once.ts';
import type { Db, Tx } from '../database/pool.ts';
import { grants, people, sessions, signInTries, tokens } from '../database/tables.ts';
import type { Credential } from './caller.ts';

export interface PersonRow {
  readonly id: string;
  readonly name: string;
  readonly shownAs: string;
  readonly passwordHash: string | null;
}

export async function personByName(db: Db | Tx, name: string): Promise<PersonRow | undefined> {
  const [row] = await db.select().from(people).where(eq(people.name, name));
  return row;
}

export async function personById(db: Db | Tx, id: string): Promise<PersonRow | undefined> {
  const [row] = await db.select().from(people).where(eq(people.id, id));
  return row;
}

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

/** Whether the installation knows anybody at all. */
export async function anybody(db: Db): Promise<boolean> {
  return (await db.select({ id: people.id }).from(people).limit(1)).length > 0;
}

export async function insertPerson(
  tx: Tx,
  person: PersonRow & { readonly madeAt: Instant },
): Promise<void> {
  await tx.insert(people).values(person);
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

/** When people called last, by name: by a token, or by opening a session. */
export async function lastSeen(db: Db): Promise<ReadonlyMap<string, Instant>> {
  const [byToken, bySession] = await Promise.all([
    db
      .select({ name: people.name, at: max(tokens.lastUsedAt) })
      .from(people)
      .innerJoin(tokens, eq(tokens.personId, people.id))
      .groupBy(people.name),
    db
      .select({ name: people.name, at: max(sessions.madeAt) })
      .from(people)
      .innerJoin(sessions, eq(sessions.personId, people.id))
      .groupBy(people.name),
  ]);
  const seen = new Map<string, Instant>();
  for (const { name, at } of [...byToken, ...bySession])
    if (at !== null) seen.set(name, Math.max(at, seen.get(name) ?? 0) as Instant);
  return seen;
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

export async function insertSession(
  tx: Tx,
  session: { hash: string; personId: string; madeAt: Instant; expiresAt: Instant },
): Promise<void> {
  await tx.insert(sessions).values(session);
}

export async function personOfSession(
  db: Db,
  hash: string,
  at: Instant,
): Promise<string | undefined> {
  const [row] = await db
    .select({ personId: sessions.personId })
    .from(sessions)
    .where(and(eq(sessions.hash, hash), gt(sessions.expiresAt, at)));
  return row?.personId;
}

export async function deleteSession(tx: Tx, hash: string): Promise<void> {
  await tx.delete(sessions).where(eq(sessions.hash, hash));
}

/** A person's sessions that hold, the newest first. */
export async function sessionsOf(
  db: Db,
  personId: string,
  now: Instant,
): Promise<readonly { hash: string; madeAt: number; expiresAt: number }[]> {
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
    .where(and(eq(sessions.personId, personId), like(sessions.hash, `${id}%`)));
  return done.affectedRows > 0;
}

/** Ends every session of a person but one; returns how many. */
export async function deleteOtherSessions(
  tx: Tx,
  personId: string,
  but: string | null,
): Promise<number> {
  const others = but === null ? [] : [ne(sessions.hash, but)];
  const [done] = await tx.delete(sessions).where(and(eq(sessions.personId, personId), ...others));
  return done.affectedRows;
}

export async function setPasswordHash(tx: Tx, personId: string, hash: string): Promise<void> {
  await tx.update(people).set({ passwordHash: hash }).where(eq(people.id, personId));
}

/** Forgets sessions that ended before an instant. */
export async function deleteSessionsBefore(db: Db, at: Instant): Promise<void> {
  await db.delete(sessions).where(lt(sessions.expiresAt, at));
}

export interface TokenRow {
  readonly id: string;
  readonly hash: string;
  readonly personId: string;
  readonly name: string;
  readonly kind: 'all' | 'git';
  readonly madeAt: number;
  readonly expiresAt: number;
  readonly lastUsedAt: number | null;
  readonly revokedAt: number | null;
  /** The token that it was made with. */
  readonly madeWith: string | null;
}

export async function insertToken(tx: Tx, token: TokenRow): Promise<void> {
  await tx.insert(tokens).values(token);
}

/** Who stands behind a token, with all grants. */
export interface TokenHolder {
  readonly token: TokenRow;
  readonly person: PersonRow;
  readonly grants: readonly { project: string | null; role: Role }[];
}

/** The holder of the token with this hash, if it has neither ended nor been taken back; one round trip, since every call needs it. */
export async function holderOf(
  db: Db,
  hash: string,
  at: Instant,
): Promise<TokenHolder | undefined> {
  const rows = await holders(db).execute({ hash, at });
  const [first] = rows;
  if (first === undefined) return undefined;
  const held = rows.flatMap(({ project, role }) => (role === null ? [] : [{ project, role }]));
  return { token: first.token, person: first.person, grants: held };
}

const holders = madeOnce((db) =>
  db
    .select({ token: tokens, person: people, project: grants.projectId, role: grants.role })
    .from(tokens)
    .innerJoin(people, eq(people.id, tokens.personId))
    .leftJoin(grants, eq(grants.personId, tokens.personId))
    .where(
      and(
        eq(tokens.hash, sql.placeholder('hash')),
        gt(tokens.expiresAt, sql.placeholder('at')),
        isNull(tokens.revokedAt),
      ),
    )
    .prepare(),
);

/** Notes a token's use, at most once a minute so that reading does not write. */
export async function noteTokenUse(db: Db, token: TokenRow, at: Instant): Promise<void> {
  if (token.lastUsedAt !== null && at - token.lastUsedAt < 60_000) return;
  await db.update(tokens).set({ lastUsedAt: at }).where(eq(tokens.id, token.id));
}

export async function tokensOf(
  db: Db,
  personId: string,
  at: Instant,
): Promise<readonly TokenRow[]> {
  return db
    .select()
    .from(tokens)
    .where(and(eq(tokens.personId, personId), isNull(tokens.revokedAt), gt(tokens.expiresAt, at)))
    .orderBy(desc(tokens.id));
}

/** Whether a session or a token still holds. */
export async function isCredentialGood(
  db: Db,
  credential: Credential,
  at: Instant,
): Promise<boolean> {
  if (credential.kind === 'session')
    return (await personOfSession(db, credential.hash, at)) !== undefined;
  const [row] = await db
    .select({ id: tokens.id })
    .from(tokens)
    .where(and(eq(tokens.id, credential.id), gt(tokens.expiresAt, at), isNull(tokens.revokedAt)));
  return row !== undefined;
}

/** Takes back a token of a person and all that were made with it, and with those; returns their ids, none if it is not theirs. */
export async function revokeToken(
  tx: Tx,
  id: string,
  personId: string,
  at: Instant,
): Promise<readonly string[]> {
  const [own] = await tx
    .select({ id: tokens.id })
    .from(tokens)
    .where(and(eq(tokens.id, id), eq(tokens.personId, personId), isNull(tokens.revokedAt)))
    .for('update');
  const all = own === undefined ? [] : [own.id];
  for (let last: readonly string[] = all; last.length > 0; ) {
    const made = await tx
      .select({ id: tokens.id })
      .from(tokens)
      .where(and(inArray(tokens.madeWith, [...last]), isNull(tokens.revokedAt)))
      .for('update');
    last = made.map((one) => one.id).filter((one) => !all.includes(one));
    all.push(...last);
  }
  if (all.length > 0) await tx.update(tokens).set({ revokedAt: at }).where(inArray(tokens.id, all));
  return all;
}

/** Failed and open tries of a subject, the row locked until the transaction ends; one is made where there is none. */
export async function lockTries(
  tx: Tx,
  subject: string,
): Promise<{ failures: number; lastAt: number }> {
  await tx
    .insert(signInTries)
    .values({ subject, failures: 0, lastAt: 0 })
    .onDuplicateKeyUpdate({ set: { subject } });
  const [row] = await tx
    .select()
    .from(signInTries)
    .where(eq(signInTries.subject, subject))
    .for('update');
  return row ?? { failures: 0, lastAt: 0 };
}

/** Writes how often a subject has tried. */
export async function setTries(
  tx: Tx,
  subject: string,
  tries: { readonly failures: number; readonly lastAt: Instant },
): Promise<void> {
  await tx.update(signInTries).set(tries).where(eq(signInTries.subject, subject));
}

/** Takes back one try that turned out to be no failure. */
export async function takeBackTry(db: Db, subject: string): Promise<void> {
  await db
    .update(signInTries)
    .set({ failures: sql`greatest(${signInTries.failures} - 1, 0)` })
    .where(eq(signInTries.subject, subject));
}

/** Forgets the tries of all who have made none since. */
export async function forgetTriesBefore(db: Db, at: number): Promise<void> {
  await db.delete(signInTries).where(lt(signInTries.lastAt, at));
}

export async function forgetFailures(db: Db, subject: string): Promise<void> {
  await db.delete(signInTries).where(eq(signInTries.subject, subject));
}
