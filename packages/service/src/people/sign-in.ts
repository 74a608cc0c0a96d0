import { randomBytes } from 'node:crypto';
import { type Instant, type Json, later, type Scope } from '@vaquero/core';
import ipaddr from 'ipaddr.js';
import type { Doing } from '../audit/doing.ts';
import { byPerson, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { Refused, refused } from '../base/refused.ts';
import { sha256 } from '../base/sha256.ts';
import type { Tx } from '../database/pool.ts';
import { inTransaction } from '../database/transaction.ts';
import { sessionById } from './caller.ts';
import { knownBrowser } from './known-browser.ts';
import { checkPassword, nobodysHash } from './passwords.ts';
import { type PersonRow, personByName } from './people-rows.ts';
import { checkFactor } from './second-factor.ts';
import { deleteSession, deleteSessionsBefore, insertSession } from './session-rows.ts';
import { insertToken, type TokenRow } from './token-rows.ts';
import { forgetFailures, forgetTriesBefore, lockTries, setTries, takeBackTry } from './try-rows.ts';

/** Tries of one name from one address, and of all names from one address: an office of people mistypes more than one does. */
const freeTries = { pair: 5, address: 100 } as const;
const sessionMs = 12 * 3_600_000;
const forgottenMs = 3_600_000;

/** How long after the last try another one is taken: doubling from 1 s after those that are free, 15 min at most. */
function backOffMs(tries: number, free: number): number {
  return tries < free ? 0 : Math.min(900_000, 1000 * 2 ** (tries - free));
}

/** Who signs in, by what, and from where. */
export interface SignInWish {
  readonly name: string;
  readonly password: string;
  /** Of the second factor. */
  readonly code?: string | undefined;
}

/** From where somebody signs in; of a browser, the mark that it was known by. */
export type From = Pick<Doing, 'origin' | 'request'> & { readonly mark?: string | null };

/**
 * Checks a name and password, and a code where there is a second factor.
 * Refuses: wrong-password, too-many-tries, code-needed, wrong-code.
 */
export async function checkSignIn(
  deps: Deps,
  { code, ...wish }: SignInWish,
  from: From,
): Promise<PersonRow> {
  return checkPasswordThen(deps, wish, from, async (person) => {
    await checkFactor(deps, person, { code, from });
    return person;
  });
}

/**
 * Checks a name and password, and what else is to hold: what that refuses counts like a wrong password, unless it only
 * asks for a code. A try is counted before it is checked, so that many at once are as many tries. It counts for the name
 * from this address: wrong passwords from elsewhere lock nobody out. A browser that the person has signed in with counts
 * for itself alone: whoever shares their address does not lock them out either.
 * Refuses: wrong-password, too-many-tries.
 */
export async function checkPasswordThen<T>(
  deps: Deps,
  { name, password }: SignInWish,
  { origin, mark = null }: Pick<From, 'origin' | 'mark'>,
  then: (person: PersonRow) => Promise<T>,
): Promise<T> {
  const tries = await triesOf(deps, name, origin, mark);
  await countTry(deps, tries);
  const takeBack = (all: readonly Tried[]) =>
    Promise.all(all.map(({ subject }) => takeBackTry(deps.db, subject)));
  const person = await personByName(deps.db, name);
  const good = await checkPassword(person?.passwordHash ?? nobodysHash, password);
  if (good === undefined) {
    await takeBack(tries);
    return refused({ code: 'too-many-tries', retryAfterS: 2 });
  }
  // Neither a group nor a service has a password; the row says so, whatever comes to stand there.
  if (person === undefined || person.kind !== 'person' || good !== true)
    return refused({ code: 'wrong-password' });
  const done = await then(person).catch(async (error: unknown) => {
    if (error instanceof Refused && error.refusal.code === 'code-needed') await takeBack(tries);
    throw error;
  });
  const [own, ...shared] = tries;
  await Promise.all([forgetFailures(deps.db, own.subject), takeBack(shared)]);
  return done;
}

interface Tried {
  readonly subject: string;
  /** How many are taken without a wait. */
  readonly free: number;
}

/** What a try counts for: the first alone is forgotten when it succeeds. */
async function triesOf(
  deps: Deps,
  name: string,
  origin: string | null,
  mark: string | null,
): Promise<readonly [Tried, ...Tried[]]> {
  const marked = mark === null ? undefined : await personByName(deps.db, name);
  const browser = knownBrowser(deps, marked, mark);
  if (browser !== null) return [{ subject: `browser:${browser}`, free: freeTries.pair }];
  const from = tellingPart(origin ?? 'unknown');
  return [
    { subject: `pair:${sha256(`${name.toLowerCase()}\n${from}`)}`, free: freeTries.pair },
    { subject: `address:${from}`, free: freeTries.address },
  ];
}

/**
 * What of an address tells one caller from another. Who has an IPv6 address has all of its network of 64 bits, and would
 * have new tries with each of them. Source: RFC 4291 section 2.5.4.
 */
function tellingPart(address: string): string {
  if (!ipaddr.isValid(address)) return address;
  const read = ipaddr.process(address);
  return read.kind() === 'ipv4'
    ? read.toString()
    : ipaddr.IPv6.networkAddressFromCIDR(`${address.replace(/%.*$/, '')}/64`).toString();
}

/** Forgets tries that count for nothing any more: anybody can make as many as there are names. */
export async function sweepTries(deps: Pick<Deps, 'db' | 'clock'>): Promise<void> {
  await forgetTriesBefore(deps.db, deps.clock() - forgottenMs);
}

/** Forgets sessions that have run out. */
export async function sweepSessions(deps: Pick<Deps, 'db' | 'clock'>): Promise<void> {
  await deleteSessionsBefore(deps.db, deps.clock());
}

/** Counts a try for each subject, or for none of them. Refuses: too-many-tries. */
async function countTry(deps: Deps, subjects: readonly Tried[]): Promise<void> {
  const at = deps.clock();
  await inTransaction(deps.db, async (tx) => {
    for (const { subject, free } of subjects) {
      const row = await lockTries(tx, subject);
      const failures = at - row.lastAt > forgottenMs ? 0 : row.failures;
      const waitMs = row.lastAt + backOffMs(failures, free) - at;
      if (failures >= free && waitMs > 0)
        refused({ code: 'too-many-tries', retryAfterS: Math.ceil(waitMs / 1000) });
      await setTries(tx, subject, { failures: failures + 1, lastAt: at });
    }
  });
}

/** Opens a session and returns its secret, which is only ever kept hashed. */
export async function openSession(
  deps: Deps,
  person: PersonRow,
  from: Pick<Doing, 'origin' | 'request'>,
): Promise<{ secret: string; expiresAt: Instant }> {
  const secret = randomBytes(32).toString('base64url');
  const at = deps.clock();
  const expiresAt = later(at, sessionMs);
  await inTransaction(deps.db, async (tx) => {
    await insertSession(tx, { hash: sha256(secret), personId: person.id, madeAt: at, expiresAt });
    decide(tx, {
      at,
      kind: 'person.signed-in',
      project: null,
      doing: byPerson(person.id, 'console', { ...from, by: sessionById(sha256(secret)) }),
      facts: {},
    });
  });
  return { secret, expiresAt };
}

/** Ends a session. */
export async function endSession(deps: Deps, secret: string, doing: Doing): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    await deleteSession(tx, sha256(secret));
    decide(tx, {
      at: deps.clock(),
      kind: 'person.signed-out',
      project: null,
      doing,
      facts: {},
    });
  });
}

/** The beginning of every token, so that a leaked one can be recognised. */
export const tokenPrefix = 'vaq_';

/** A token to make: whose, what kind, by whom on record, and with which other token (it ends no later than that, and with it). */
export interface NewToken {
  readonly person: { readonly id: string };
  readonly wanted: {
    readonly name: string;
    readonly kind: 'all' | 'git';
    readonly days: number;
    readonly scope?: Scope | null;
  };
  readonly doing: Doing;
  readonly made: { readonly id: string; readonly expiresAt: number } | null;
}

type MadeToken = TokenRow & { readonly secret: string };

/** Makes a token. Its secret is in the reply and nowhere else: the row keeps a hash. */
export async function makeToken(
  deps: Pick<Deps, 'db' | 'clock' | 'newId'>,
  person: NewToken['person'],
  wanted: NewToken['wanted'],
  doing: Doing,
): Promise<MadeToken> {
  const given = { person, wanted, doing, made: null };
  return (await makeTokenWith(deps, given, () => undefined))[1];
}

/** The same, with something else in its transaction. */
export async function makeTokenWith<T>(
  deps: Pick<Deps, 'db' | 'clock' | 'newId'>,
  { person, wanted, doing, made }: NewToken,
  beside: (tx: Tx, token: TokenRow) => T,
): Promise<readonly [T, MadeToken]> {
  const secret = `${tokenPrefix}${randomBytes(32).toString('base64url')}`;
  const at = deps.clock();
  const token: TokenRow = {
    id: deps.newId(),
    hash: sha256(secret),
    personId: person.id,
    name: wanted.name,
    kind: wanted.kind,
    madeAt: at,
    expiresAt: Math.min(
      later(at, wanted.days * 86_400_000),
      made?.expiresAt ?? Number.POSITIVE_INFINITY,
    ),
    lastUsedAt: null,
    revokedAt: null,
    madeWith: made?.id ?? null,
    scope: wanted.scope ?? null,
  };
  const done = await inTransaction(deps.db, async (tx) => {
    await insertToken(tx, token);
    decide(tx, {
      at,
      kind: 'token.made',
      project: null,
      doing,
      facts: {
        token: token.id,
        kind: token.kind,
        expiresAt: token.expiresAt,
        ...(token.scope === null ? {} : { scope: token.scope as unknown as Json }),
      },
    });
    return beside(tx, token);
  });
  return [done, { ...token, secret }];
}
