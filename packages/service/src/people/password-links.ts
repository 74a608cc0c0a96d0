import { randomBytes } from 'node:crypto';
import { decidePassword, type Instant, later, type Refusal } from '@vaquero/core';
import type { Doing } from '../audit/doing.ts';
import { byPerson, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import { sha256 } from '../base/sha256.ts';
import type { Db, Tx } from '../database/pool.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Caller } from './caller.ts';
import { commonPasswords } from './common-passwords.ts';
import { noteLinkUsed, passwordLinkByHash, putPasswordLink } from './password-link-rows.ts';
import { hashPassword } from './passwords.ts';
import { type PersonRow, personByName, setPasswordHash } from './people-rows.ts';
import { deleteOtherSessions } from './session-rows.ts';

const lastsMs = 86_400_000;

/** A link with its address, which is shown this once. */
export interface MadeLink {
  readonly name: string;
  readonly address: string;
  readonly expiresAt: Instant;
}

/** Makes a link by which somebody who lost their password sets another one. Refuses: not-found, no-group. */
export async function makePasswordLink(
  deps: Deps,
  tx: Tx,
  { name, caller }: { readonly name: string; readonly caller: Caller },
): Promise<MadeLink> {
  const person = await personByName(tx, name);
  if (person === undefined || person.endedAt !== null)
    return refused({ code: 'not-found', what: 'person', name });
  if (person.kind !== 'person') return refused({ code: 'no-group', name, kind: person.kind });
  const at = deps.clock();
  const key = randomBytes(32).toString('base64url');
  const expiresAt = later(at, lastsMs);
  const [personId, madeBy] = [person.id, caller.personId];
  const row = { hash: sha256(key), personId, madeBy, madeAt: at, expiresAt };
  await putPasswordLink(tx, { ...row, usedAt: null, endedAt: null });
  decide(tx, {
    at,
    kind: 'person.password-link-made',
    project: null,
    doing: caller.doing,
    facts: { person: person.id },
  });
  // Behind the sign that no browser sends anywhere.
  return { name, address: `${deps.config.origin}/password#${key}`, expiresAt };
}

/** Whose password a link sets, and until when. Refuses: password-link-over. */
export async function passwordLinkOf(
  deps: Deps,
  key: string,
): Promise<{ readonly person: PersonRow; readonly expiresAt: Instant }> {
  return requireOpen(deps, deps.db, key, false);
}

async function requireOpen(
  deps: Deps,
  db: Db | Tx,
  key: string,
  lock: boolean,
): Promise<{ readonly person: PersonRow; readonly expiresAt: Instant }> {
  const over = (because: Extract<Refusal, { code: 'password-link-over' }>['because']): never =>
    refused({ code: 'password-link-over', because });
  const found = await passwordLinkByHash(db, sha256(key), lock);
  if (found === undefined) return over('unknown');
  const { row, person } = found;
  if (row.usedAt !== null) return over('used');
  if (row.endedAt !== null) return over('ended');
  return deps.clock() < row.expiresAt
    ? { person, expiresAt: row.expiresAt as Instant }
    : over('late');
}

/**
 * Sets the password of whoever has a link, and ends every session of theirs: whoever else was signed in as them is not any
 * more. Refuses: password-link-over, password-weak, too-many-tries.
 */
export async function usePasswordLink(
  deps: Deps,
  { key, password }: { readonly key: string; readonly password: string },
  from: Pick<Doing, 'origin' | 'request'>,
): Promise<PersonRow> {
  // A guessed key costs no hashing.
  const { person } = await passwordLinkOf(deps, key);
  orRefuse(decidePassword(person.name, password, await commonPasswords()));
  const hash = await hashPassword(password);
  if (hash === undefined) return refused({ code: 'too-many-tries', retryAfterS: 2 });
  await inTransaction(deps.db, async (tx) => {
    await requireOpen(deps, tx, key, true);
    const at = deps.clock();
    await noteLinkUsed(tx, sha256(key), at);
    await setPasswordHash(tx, person.id, hash);
    const sessionsEnded = await deleteOtherSessions(tx, person.id, null);
    decide(tx, {
      at,
      kind: 'person.password-set',
      project: null,
      doing: byPerson(person.id, 'console', from),
      facts: { sessionsEnded, link: true },
    });
  });
  return person;
}
