import { randomBytes } from 'node:crypto';
import { type Instant, later } from '@vaquero/core';
import { type Doing, record, sha256 } from '../audit/record.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { refused } from '../refused.ts';
import { checkPassword, nobodysHash } from './passwords.ts';
import {
  deleteSession,
  forgetFailures,
  insertSession,
  insertToken,
  noteFailure,
  type PersonRow,
  personByName,
  type TokenRow,
  triesOf,
} from './people-rows.ts';

const freeTries = 5;
const sessionMs = 12 * 3_600_000;

/** How long after its last failure a name or address is read again: doubling from 1 s after five, 15 min at most. */
function backOffMs(failures: number): number {
  return failures < freeTries ? 0 : Math.min(900_000, 1000 * 2 ** (failures - freeTries));
}

/**
 * Checks a name and password. Failures count by name and by address, so neither many names from one
 * place nor one name from many places gets more tries.
 * Refuses: wrong-password, too-many-tries.
 */
export async function checkSignIn(
  deps: Deps,
  name: string,
  password: string,
  address: string,
): Promise<PersonRow> {
  const at = deps.clock();
  const subjects = [`name:${name.toLowerCase()}`, `address:${address}`];
  const tries = await Promise.all(subjects.map((subject) => triesOf(deps.db, subject)));
  const waitMs = Math.max(...tries.map((one) => one.lastAt + backOffMs(one.failures) - at));
  if (waitMs > 0) refused({ code: 'too-many-tries', retryAfterS: Math.ceil(waitMs / 1000) });
  const person = await personByName(deps.db, name);
  const good = await checkPassword(person?.passwordHash ?? nobodysHash, password);
  if (good === undefined) refused({ code: 'too-many-tries', retryAfterS: 2 });
  if (person === undefined || good !== true) {
    await Promise.all(subjects.map((subject) => noteFailure(deps.db, subject, at)));
    return refused({ code: 'wrong-password' });
  }
  await forgetFailures(deps.db, subjects[0] ?? '');
  return person;
}

/** Opens a session and returns its secret, which is only ever kept hashed. */
export async function openSession(
  deps: Deps,
  person: PersonRow,
  origin: string,
): Promise<{ secret: string; expiresAt: Instant }> {
  const secret = randomBytes(32).toString('base64url');
  const at = deps.clock();
  const expiresAt = later(at, sessionMs);
  await inTransaction(deps.db, async (tx) => {
    await insertSession(tx, { hash: sha256(secret), personId: person.id, madeAt: at, expiresAt });
    await record(tx, {
      at,
      kind: 'person.signed-in',
      projectId: null,
      project: null,
      doing: doingOf(person, 'console', origin),
      facts: {},
    });
  });
  return { secret, expiresAt };
}

/** Ends a session. */
export async function endSession(deps: Deps, secret: string, doing: Doing): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    await deleteSession(tx, sha256(secret));
    await record(tx, {
      at: deps.clock(),
      kind: 'person.signed-out',
      projectId: null,
      project: null,
      doing,
      facts: {},
    });
  });
}

/** The beginning of every token, so that a leaked one can be recognised. */
export const tokenPrefix = 'vaq_';

/** Makes a token. Its secret is in the reply and nowhere else: the row keeps a hash. */
export async function makeToken(
  deps: Deps,
  person: { id: string },
  wanted: { name: string; kind: 'all' | 'git'; days: number },
  doing: Doing,
): Promise<TokenRow & { secret: string }> {
  const secret = `${tokenPrefix}${randomBytes(32).toString('base64url')}`;
  const at = deps.clock();
  const token: TokenRow = {
    id: deps.newId(),
    hash: sha256(secret),
    personId: person.id,
    name: wanted.name,
    kind: wanted.kind,
    madeAt: at,
    expiresAt: later(at, wanted.days * 86_400_000),
    lastUsedAt: null,
    revokedAt: null,
  };
  await inTransaction(deps.db, async (tx) => {
    await insertToken(tx, token);
    await record(tx, {
      at,
      kind: 'token.made',
      projectId: null,
      project: null,
      doing,
      facts: { token: token.id, kind: token.kind, expiresAt: token.expiresAt },
    });
  });
  return { ...token, secret };
}

/** What a person does, for the record. */
export function doingOf(person: { readonly id: string }, through: string, origin: string): Doing {
  return { actor: { kind: 'person', id: person.id }, through, origin };
}
