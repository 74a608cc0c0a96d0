import { randomBytes } from 'node:crypto';
import type { MailAddresses } from '@vaquero/contracts';
import { type Instant, later } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { sha256 } from '../base/sha256.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import type { Caller } from './caller.ts';
import { deleteMail, mailByKey, mailOf, putMail, setProven } from './mail-rows.ts';
import type { Mailer } from './mailer.ts';

const linkLastsMs = 86_400_000;
const mostAddresses = 20;

/** The mail addresses of a person. */
export async function viewMail(deps: Deps, personId: string): Promise<MailAddresses> {
  const rows = await mailOf(deps.db, personId);
  return {
    sends: deps.mailer !== null,
    addresses: rows.map(({ address, addedAt, provenAt }) => ({
      address,
      addedAt: addedAt as Instant,
      provenAt: provenAt as Instant | null,
    })),
  };
}

/**
 * Adds an address and sends a link to it. Nothing is said of whether somebody else has it: only who reads its mail learns that.
 * Refuses: mail-none, mail-failed, mail-too-many.
 */
export async function addMail(deps: Deps, caller: Caller, asked: string): Promise<MailAddresses> {
  const mailer: Mailer = deps.mailer ?? refused({ code: 'mail-none' });
  const address = asked.toLowerCase();
  const now = deps.clock();
  const known = await mailOf(deps.db, caller.personId);
  const retryAfterS = known.length >= mostAddresses ? 3600 : mailer.mayFor(caller.personId, now);
  if (retryAfterS !== null) return refused({ code: 'mail-too-many', retryAfterS });
  const key = randomBytes(32).toString('base64url');
  await putMail(deps.db, {
    id: deps.newId(),
    personId: caller.personId,
    address,
    addedAt: now,
    keyHash: sha256(key),
    keyUntil: later(now, linkLastsMs),
  });
  await mailer.send(address, 'Is this your address?', textOf(deps, caller, key)).catch((err) => {
    deps.log.warn({ err }, 'a mail was not taken');
    return refused({ code: 'mail-failed', address, why: whyOf(err) });
  });
  return viewMail(deps, caller.personId);
}

function textOf({ config }: Deps, { name }: Caller, key: string): string {
  // Behind the sign that no browser sends anywhere.
  return [
    `${name} says at ${config.origin} that this address is theirs.`,
    '',
    'If you are them, open this within a day, signed in there:',
    '',
    `${config.origin}/mail#${key}`,
    '',
    'If you are not, do nothing: nothing comes of it.',
    '',
  ].join('\n');
}

/** What a mail server says of itself names hosts and more: only what kind of thing went wrong is told. */
function whyOf(error: unknown): string {
  const { code, responseCode } = error as {
    readonly code?: string;
    readonly responseCode?: number;
  };
  if (typeof responseCode === 'number' && responseCode >= 500) return 'the server refuses it';
  if (code === 'EENVELOPE') return 'the server does not know it';
  return 'the mail server does not answer';
}

/** Makes an address a person's by the key of its link. Refuses: mail-link-over, mail-address-taken. */
export async function proveMail(deps: Deps, caller: Caller, key: string): Promise<MailAddresses> {
  const at = deps.clock();
  let address = '';
  await inTransaction(deps.db, async (tx) => {
    const row = await mailByKey(tx, sha256(key));
    if (row === undefined || row.personId !== caller.personId)
      return refused({ code: 'mail-link-over', because: 'unknown' });
    if (at >= (row.keyUntil ?? 0)) return refused({ code: 'mail-link-over', because: 'late' });
    address = row.address;
    await setProven(tx, row, at);
    decide(tx, {
      at,
      kind: 'person.mail-proven',
      project: null,
      doing: caller.doing,
      facts: {},
    });
  }).catch((error: unknown) => {
    if (isDuplicate(error)) return refused({ code: 'mail-address-taken', address });
    throw error;
  });
  return viewMail(deps, caller.personId);
}

/** Takes an address away. Refuses: not-found. */
export async function dropMail(
  deps: Deps,
  caller: Caller,
  address: string,
): Promise<MailAddresses> {
  await inTransaction(deps.db, async (tx) => {
    const gone = await deleteMail(tx, caller.personId, address.toLowerCase());
    if (gone === undefined)
      return refused({ code: 'not-found', what: 'mail address', name: address });
    if (gone.provenAt === null) return;
    decide(tx, {
      at: deps.clock(),
      kind: 'person.mail-dropped',
      project: null,
      doing: caller.doing,
      facts: {},
    });
  });
  return viewMail(deps, caller.personId);
}
