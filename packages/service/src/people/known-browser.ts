import { randomBytes, timingSafeEqual } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import type { Response } from 'express';
import { cookieOf } from '../base/cookie-of.ts';
import type { Deps } from '../base/deps.ts';
import type { PersonRow } from './people-rows.ts';

/** Beside the session, and longer: it opens nothing, and tells a browser that its person signed in with from any other. */
const knownCookie = '__Host-vaquero-known';
const knownForMs = 180 * 86_400_000;

/**
 * Marks a browser as one that a person has signed in with, for 180 days or until the password is another one. Nothing is
 * kept of it: the mark is the service's own word over the person, an id, the moment and the password's hash.
 */
export function markBrowser(
  { keys, clock }: Pick<Deps, 'keys' | 'clock'>,
  res: Response,
  person: PersonRow,
): void {
  const [id, at] = [randomBytes(18).toString('base64url'), clock()];
  res.appendHeader(
    'set-cookie',
    `${knownCookie}=${id}.${at}.${wordFor(keys, person, id, at)}; Path=/; Secure; HttpOnly; SameSite=Strict; Max-Age=${knownForMs / 1000}`,
  );
}

/** The mark that a request carries; null where it carries none. */
export function markOf(req: IncomingMessage): string | null {
  return cookieOf(req, knownCookie) ?? null;
}

/** The id of the browser, if its mark is of this person and holds; null otherwise. */
export function knownBrowser(
  { keys, clock }: Pick<Deps, 'keys' | 'clock'>,
  person: PersonRow | undefined,
  mark: string | null,
): string | null {
  const [, id, since, word] = /^([\w-]{24})\.(\d{1,15})\.([0-9a-f]{64})$/.exec(mark ?? '') ?? [];
  if (person === undefined || id === undefined || since === undefined || word === undefined)
    return null;
  const at = Number(since);
  if (at > clock() || clock() - at > knownForMs) return null;
  const own = wordFor(keys, person, id, at);
  return timingSafeEqual(Buffer.from(own), Buffer.from(word)) ? id : null;
}

function wordFor(keys: Deps['keys'], person: PersonRow, id: string, at: number): string {
  return keys.keyed(`known-browser\n${person.id}\n${id}\n${at}\n${person.passwordHash ?? ''}`);
}
