import { type Instant, later } from '@vaquero/core';
import { z } from 'zod';
import { decide } from '../audit/record.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { refused } from '../refused.ts';
import { openValue, sealValue } from '../variables/seal.ts';
import type { Caller } from './caller.ts';
import type { Issuer, Underway } from './elsewhere-issuer.ts';
import { deleteIdentity, personOfIdentity, putIdentity } from './identity-rows.ts';
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
): Promise<{ readonly issuer: string; readonly called: string; readonly subject: string }> {
  const { issuer, called, answer } = issuerOf(deps);
  if (underway === undefined)
    return refused({
      code: 'elsewhere-failed',
      called,
      why: 'this browser did not begin it, or long ago',
    });
  const subject = await answer(search, underway).catch((err: unknown) => {
    deps.log.warn({ err }, 'an answer from elsewhere is not believed');
    return refused({ code: 'elsewhere-failed', called, why: whyOf(err) });
  });
  return { issuer, called, subject };
}

/** Why it is not believed, without what it said: that may be anybody's. */
function whyOf(error: unknown): string {
  const { code, error: said } = error as { readonly code?: unknown; readonly error?: unknown };
  if (said === 'access_denied') return 'it was declined there';
  return typeof code === 'string' && code.startsWith('OAUTH_')
    ? `what it said does not hold (${code.replace('OAUTH_', '').toLowerCase().replaceAll('_', ' ')})`
    : 'it could not be asked';
}

/** Who came back, as they are called here. Refuses: elsewhere-none, elsewhere-failed, elsewhere-unknown. */
export async function signInElsewhere(
  deps: Deps,
  search: string,
  underway: Underway | undefined,
): Promise<PersonRow> {
  const { issuer, called, subject } = await answeredElsewhere(deps, search, underway);
  const person = await personOfIdentity(deps.db, issuer, subject);
  return person === undefined || person.endedAt !== null
    ? refused({ code: 'elsewhere-unknown', called })
    : person;
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
