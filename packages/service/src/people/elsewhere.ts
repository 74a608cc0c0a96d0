import { type Instant, later } from '@vaquero/core';
import { z } from 'zod';
import type { Doing } from '../audit/doing.ts';
import { byPerson, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import { openValue, sealValue } from '../variables/seal.ts';
import type { Caller } from './caller.ts';
import type { AnsweredElsewhere, Issuer, Underway } from './elsewhere-issuer.ts';
import { deleteIdentity, identitySince, personOfIdentity, putIdentity } from './identity-rows.ts';
import { peopleByMail } from './mail-rows.ts';
import type { PersonRow } from './people-rows.ts';

/** How long somebody may stay away. */
export const awayMs = 600_000;
const sealedFor = 'elsewhere';

const taken = z.object({
  state: z.string(),
  nonce: z.string(),
  verifier: z.string(),
  /** Who is signed in and joins; null for who signs in. */
  joins: z.string().nullable(),
  until: z.number(),
});
type Taken = Underway & { readonly joins: string | null; readonly until: Instant };

function issuerOf({ issuer }: Deps): Issuer {
  return issuer ?? refused({ code: 'elsewhere-none' });
}

/**
 * Begins: where the browser goes, and what it takes along, sealed. `joins` is who is signed in and joins what they are there.
 * Refuses: elsewhere-none, elsewhere-failed.
 */
export async function beginElsewhere(
  deps: Deps,
  joins: string | null,
): Promise<{ readonly address: string; readonly sealed: string }> {
  const { called, begin } = issuerOf(deps);
  const { address, underway } = await begin().catch((err: unknown) => {
    deps.log.warn({ err }, 'the issuer does not answer');
    return refused({ code: 'elsewhere-failed', called, why: 'it does not answer' });
  });
  const along: Taken = { ...underway, joins, until: later(deps.clock(), awayMs) };
  const sealed = sealValue(deps.keys.sealing, sealedFor, JSON.stringify(along));
  return { address, sealed: sealed.toString('base64url') };
}

/** What a browser took along; undefined where it brings nothing of ours, or comes late. */
export function broughtBack(deps: Deps, sealed: string | undefined): Taken | undefined {
  if (sealed === undefined) return undefined;
  try {
    const text = openValue(deps.keys.sealing, sealedFor, Buffer.from(sealed, 'base64url'));
    const read = taken.parse(JSON.parse(text)) as Taken;
    return deps.clock() < read.until ? read : undefined;
  } catch {
    return undefined; // Whatever it is, it was not sealed here.
  }
}

/** The name of the issuer for whoever came back. Refuses: elsewhere-none, elsewhere-failed. */
async function answeredElsewhere(
  deps: Deps,
  search: string,
  underway: Underway | undefined,
): Promise<{ readonly issuer: string; readonly called: string } & AnsweredElsewhere> {
  const { issuer, called, answer } = issuerOf(deps);
  if (underway === undefined)
    return refused({
      code: 'elsewhere-failed',
      called,
      why: 'this browser did not begin it, or long ago',
    });
  const answered = await answer(search, underway).catch((err: unknown) => {
    deps.log.warn({ err }, 'an answer from elsewhere is not believed');
    return refused({ code: 'elsewhere-failed', called, why: whyOf(err) });
  });
  return { issuer, called, ...answered };
}

/** Why it is not believed, without what it said: that may be anybody's. */
function whyOf(error: unknown): string {
  const { code, error: said } = error as { readonly code?: unknown; readonly error?: unknown };
  if (said === 'access_denied') return 'it was declined there';
  return typeof code === 'string' && code.startsWith('OAUTH_')
    ? `what it said does not hold (${code.replace('OAUTH_', '').toLowerCase().replaceAll('_', ' ')})`
    : 'it could not be asked';
}

/**
 * Who came back, as they are called here: who was joined with them, or else who has shown here that a mail address is theirs
 * which the issuer has made sure of; these are joined from now on. Refuses: elsewhere-none, elsewhere-failed, elsewhere-unknown.
 */
export async function signInElsewhere(
  deps: Deps,
  search: string,
  underway: Underway | undefined,
  from: Pick<Doing, 'origin' | 'request'>,
): Promise<PersonRow> {
  const { issuer, called, subject, mail } = await answeredElsewhere(deps, search, underway);
  const person =
    (await personOfIdentity(deps.db, issuer, subject)) ??
    (await joinedByMail(deps, { issuer, subject, mail }, from));
  return person === undefined || person.endedAt !== null
    ? refused({ code: 'elsewhere-unknown', called })
    : person;
}

/** Joins whose address an issuer vouches for with whoever has it here, unless they are somebody else there already. */
async function joinedByMail(
  deps: Deps,
  { issuer, subject, mail }: AnsweredElsewhere & { readonly issuer: string },
  from: Pick<Doing, 'origin' | 'request'>,
): Promise<PersonRow | undefined> {
  const person = (await peopleByMail(deps.db, [mail])).get(mail ?? '');
  if (person === undefined || person.endedAt !== null) return undefined;
  if ((await identitySince(deps.db, person.id, issuer)) !== undefined) return undefined;
  const at = deps.clock();
  await inTransaction(deps.db, async (tx) => {
    await putIdentity(tx, { issuer, subject, personId: person.id, since: at });
    decide(tx, {
      at,
      kind: 'person.elsewhere-joined',
      project: null,
      doing: byPerson(person.id, 'console', from),
      facts: { issuer },
    });
  }).catch((error: unknown) => {
    // The same answer came twice at once: the other one has joined them.
    if (!isDuplicate(error)) throw error;
  });
  return personOfIdentity(deps.db, issuer, subject);
}

/** Joins who came back with who is signed in. Refuses: elsewhere-none, elsewhere-failed, elsewhere-taken. */
export async function joinElsewhere(
  deps: Deps,
  search: string,
  underway: Underway,
  caller: Caller,
): Promise<void> {
  const { issuer, called, subject } = await answeredElsewhere(deps, search, underway);
  const at = deps.clock();
  await inTransaction(deps.db, async (tx) => {
    await putIdentity(tx, { issuer, subject, personId: caller.personId, since: at });
    decide(tx, {
      at,
      kind: 'person.elsewhere-joined',
      project: null,
      doing: caller.doing,
      facts: { issuer },
    });
  }).catch((error: unknown) => {
    if (isDuplicate(error)) return refused({ code: 'elsewhere-taken', called });
    throw error;
  });
}

/** Signs in elsewhere no more. Refuses: elsewhere-none. */
export async function leaveElsewhere(deps: Deps, caller: Caller): Promise<void> {
  const { issuer } = issuerOf(deps);
  await inTransaction(deps.db, async (tx) => {
    if (!(await deleteIdentity(tx, caller.personId, issuer)))
      return refused({ code: 'elsewhere-none' });
    decide(tx, {
      at: deps.clock(),
      kind: 'person.elsewhere-left',
      project: null,
      doing: caller.doing,
      facts: { issuer },
    });
  });
}
