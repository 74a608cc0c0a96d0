import type { Digest, HeldGrant, Instant, Scope } from '@vaquero/core';
import { and, desc, eq, gt, inArray, isNull, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import { madeOnce } from '../database/made-once.ts';
import type { Db, Tx } from '../database/pool.ts';
import { grants, groupMembers, people, tokens } from '../database/tables.ts';
import type { Credential } from './caller.ts';
import type { PersonRow } from './people-rows.ts';
import { personOfSession } from './session-rows.ts';

export interface TokenRow {
  readonly id: string;
  readonly hash: Digest;
  readonly personId: string;
  readonly name: string;
  readonly kind: 'all' | 'git';
  readonly madeAt: number;
  readonly expiresAt: number;
  readonly lastUsedAt: number | null;
  readonly revokedAt: number | null;
  /** The token that it was made with. */
  readonly madeWith: string | null;
  /** What it is narrowed to; null for all that its person may. */
  readonly scope: Scope | null;
}

export async function insertToken(tx: Tx, token: TokenRow): Promise<void> {
  await tx.insert(tokens).values(token);
}

/** Who stands behind a token, with all grants. */
export interface TokenHolder {
  readonly token: TokenRow;
  readonly person: PersonRow;
  /** The groups that they are in. */
  readonly groups: readonly string[];
  readonly grants: readonly HeldGrant[];
}

/** The holder of the token with this hash, if it has neither ended nor been taken back; one round trip, since every call needs it. */
export async function holderOf(
  db: Db,
  hash: Digest,
  at: Instant,
): Promise<TokenHolder | undefined> {
  const rows = await holders(db).execute({ hash, at });
  const [first] = rows;
  if (first === undefined) return undefined;
  const held = rows.flatMap(({ project, role, group: by }) =>
    role === null ? [] : [{ project, role, group: by }],
  );
  const groups = rows.flatMap(({ group: by }) => by ?? []);
  return { token: first.token, person: first.person, groups: [...new Set(groups)], grants: held };
}

const group = alias(people, 'group_of');

/** A row for each grant of the holder's own, then one for each grant of each group. */
const holders = madeOnce((db) => {
  const who = { token: tokens, person: people, project: grants.projectId, role: grants.role };
  const isGood = and(
    eq(tokens.hash, sql.param(sql.placeholder('hash'), tokens.hash)),
    gt(tokens.expiresAt, sql.placeholder('at')),
    isNull(tokens.revokedAt),
  );
  const own = db
    .select({ ...who, group: sql<string | null>`null` })
    .from(tokens)
    .innerJoin(people, eq(people.id, tokens.personId))
    .leftJoin(grants, eq(grants.personId, tokens.personId))
    .where(isGood);
  const byGroups = db
    .select({ ...who, group: sql<string | null>`${group.name}` })
    .from(tokens)
    .innerJoin(people, eq(people.id, tokens.personId))
    .innerJoin(groupMembers, eq(groupMembers.personId, tokens.personId))
    .innerJoin(group, eq(group.id, groupMembers.groupId))
    .leftJoin(grants, eq(grants.personId, groupMembers.groupId))
    .where(isGood);
  return own.unionAll(byGroups).prepare();
});

/** Notes a token's use, at most once a minute so that reading does not write. */
export async function noteTokenUse(db: Db, token: TokenRow, at: Instant): Promise<void> {
  if (token.lastUsedAt !== null && at - token.lastUsedAt < 60_000) return;
  await db.update(tokens).set({ lastUsedAt: at }).where(eq(tokens.id, token.id));
}

export async function tokensOf(
  db: Db | Tx,
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
