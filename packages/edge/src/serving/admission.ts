import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import { admissionPath, hostName, passHolds, passLastsMs, returnPath } from '@vaquero/core';
import type { Gate, LiveTable } from '../routing/live-table.ts';

/** What a request is answered with instead of the site. */
export interface Turned {
  readonly status: 303 | 401 | 403 | 503;
  readonly fields: readonly string[];
  readonly why: string;
}

/** What a request shows of itself. */
interface Shown {
  readonly host: string;
  /** The service's own key, if it bears one. */
  readonly key: string | undefined;
  readonly target: string;
  readonly query: string | undefined;
}

/**
 * Says whether somebody is admitted to a place, by what they bring along alone: no other machine is asked. Null when
 * they are; else what they are told: whoever opens a page is sent to the console, and comes back with a word of the
 * service's, which is kept as a cookie and taken out of the address.
 */
export function turnedAway(
  {
    table,
    clock,
    isApiAway,
  }: {
    readonly table: LiveTable;
    readonly clock: () => number;
    readonly isApiAway: () => boolean;
  },
  req: IncomingMessage,
  { admits, link }: Gate,
  { key, target, query, ...shown }: Shown,
): Turned | null {
  const said = new URLSearchParams(query ?? '');
  if (admits === 'anyone') {
    // It was closed when this visitor was sent for a word.
    return target === enterPath ? goTo(returnPath(said.get('to')), []) : null;
  }
  if (table.mayLook(key)) return null;
  if (isForeign(req))
    return { status: 403, fields: [], why: 'This is not for other sites to use.' };
  const host = hostName(shown.host);
  const cookies = cookiesOf(req, host);
  const visiting: Visiting = {
    table,
    host,
    cookies,
    visitor: cookies.visitor === undefined ? null : hashOf(cookies.visitor),
    lent: admits === 'link' ? link : null,
    now: clock(),
    isApiAway: isApiAway(),
  };
  if (target === linkPath) return byLink(visiting, said.get('key') ?? '');
  if (target === enterPath) return byWord(visiting, said.get('word') ?? '', said.get('to'));
  if (isAdmitted(visiting, req.headers['vaquero-pass'])) return null;
  if (!isOpening(req))
    return { status: 401, fields: [], why: 'Open a page of this site first, and sign in.' };
  return sendForWord(visiting, returnPath(`${target}${query === undefined ? '' : `?${query}`}`));
}

/** Whether a visitor shows a pass of a member's for a host, as one does who was there within the hour. */
export function isMember(
  { table, clock }: { readonly table: LiveTable; readonly clock: () => number },
  req: IncomingMessage,
  asked: string,
): boolean {
  const host = hostName(asked);
  const { visitor, pass } = cookiesOf(req, host);
  const shown = { host, now: clock() };
  if (visitor !== undefined && passes(table, pass, { ...shown, visitor: hashOf(visitor) }))
    return true;
  const own = req.headers['vaquero-pass'];
  return typeof own === 'string' && passes(table, own, { ...shown, visitor: null });
}

/** Who asks, and what opens the place. */
interface Visiting {
  readonly table: LiveTable;
  readonly host: string;
  readonly cookies: Partial<Record<CookieName, string>>;
  /** What their own cookie hashes to. */
  readonly visitor: string | null;
  /** The hash of the link that is lent, where one opens the place. */
  readonly lent: string | null;
  readonly now: number;
  readonly isApiAway: boolean;
}

function isAdmitted(
  { table, host, cookies, visitor, lent, now }: Visiting,
  own: string | string[] | undefined,
): boolean {
  if (isLent(cookies.link, lent)) return true;
  if (visitor !== null && passes(table, cookies.pass, { host, visitor, now })) return true;
  // A program shows the pass itself, which is bound to no cookie.
  return typeof own === 'string' && passes(table, own, { host, visitor: null, now });
}

/** Whoever comes with the link that is lent keeps it as a cookie. */
function byLink({ host, lent }: Visiting, key: string): Turned {
  return isLent(key, lent)
    ? goTo('/', [cookieOf(host, 'link', key, linkLastsS)])
    : { status: 403, fields: [], why: 'This link is not lent any more.' };
}

/** Whoever comes back with a word keeps it as a cookie, if it is for them. */
function byWord(visiting: Visiting, word: string, said: string | null): Turned {
  const { table, host, visitor, now } = visiting;
  const to = returnPath(said);
  if (visitor !== null && passes(table, word, { host, visitor, now }))
    return goTo(to, [cookieOf(host, 'pass', word, passLastsMs / 1000)]);
  // Somebody else's word, or an old one: whoever means it asks again.
  return sendForWord(visiting, to);
}

const enterPath = `${admissionPath}enter`;
const linkPath = `${admissionPath}link`;
const linkLastsS = 30 * 86_400;

/** Sends a visitor, told by a cookie of their own, to the console for a word. */
function sendForWord({ table, host, cookies, isApiAway }: Visiting, to: string): Turned {
  if (isApiAway)
    return {
      status: 503,
      fields: ['Retry-After', '10'],
      why: 'Whom it lets in the service says, and that is not reached now. Who was let in within the hour goes on; others try again in a moment.',
    };
  const admission = table.admission();
  if (admission === null)
    return {
      status: 401,
      fields: [],
      why: 'Nobody can be let in yet: the service was not reached.',
    };
  const known = cookies.visitor;
  const secret = known ?? randomBytes(24).toString('base64url');
  const asking = new URLSearchParams({ host, visitor: hashOf(secret), to });
  const own = known === undefined ? [cookieOf(host, 'visitor', secret, null)] : [];
  return goTo(`${admission.console}/admit?${asking}`, own);
}

function goTo(place: string, cookies: readonly string[]): Turned {
  return {
    status: 303,
    fields: ['Location', place, ...cookies.flatMap((cookie) => ['Set-Cookie', cookie])],
    why: 'On the way.',
  };
}

/** Whether another site asks for it, as a part of a page of theirs or from a script; only a whole page may be opened from there. */
function isForeign({ headers }: IncomingMessage): boolean {
  const site = headers['sec-fetch-site'];
  if (site === undefined || site === 'same-origin' || site === 'none') return false;
  return !(headers['sec-fetch-mode'] === 'navigate' && headers['sec-fetch-dest'] === 'document');
}

/** Whether a request opens a page, as far as it says. */
function isOpening({ method, headers }: IncomingMessage): boolean {
  if (method !== 'GET' && method !== 'HEAD') return false;
  const mode = headers['sec-fetch-mode'];
  return mode === undefined ? /text\/html/.test(headers.accept ?? '') : mode === 'navigate';
}

type CookieName = 'visitor' | 'pass' | 'link';

/** Names of this machine alone are reached without https; everywhere else the prefix makes browsers refuse a cookie of another host (RFC 6265bis 4.1.3.2). */
function fullName(host: string, name: CookieName): string {
  return isOfThisMachine(host) ? `vaquero-${name}` : `__Host-vaquero-${name}`;
}

function isOfThisMachine(host: string): boolean {
  return host === 'localhost' || host.endsWith('.localhost');
}

function cookieOf(host: string, name: CookieName, value: string, lastsS: number | null): string {
  const secure = isOfThisMachine(host) ? '' : '; Secure';
  const lasts = lastsS === null ? '' : `; Max-Age=${lastsS}`;
  return `${fullName(host, name)}=${value}; Path=/; HttpOnly; SameSite=Lax${secure}${lasts}`;
}

function cookiesOf(
  { headers }: IncomingMessage,
  host: string,
): Partial<Record<CookieName, string>> {
  const found = new Map<string, string>();
  for (const pair of (headers.cookie ?? '').split(';')) {
    const at = pair.indexOf('=');
    const name = pair.slice(0, Math.max(at, 0)).trim();
    // Of two by one name the first is the more specific: RFC 6265 section 5.4.
    if (!found.has(name)) found.set(name, pair.slice(at + 1).trim());
  }
  const of = (name: CookieName): Partial<Record<CookieName, string>> => {
    const value = found.get(fullName(host, name));
    return value === undefined ? {} : { [name]: value };
  };
  return { ...of('visitor'), ...of('pass'), ...of('link') };
}

function hashOf(secret: string): string {
  return createHash('sha256').update(secret, 'utf8').digest('hex');
}

/** Whether a secret is that of the link which is lent now. */
function isLent(secret: string | undefined, hash: string | null): boolean {
  if (secret === undefined || hash === null) return false;
  return timingSafeEqual(Buffer.from(hashOf(secret)), Buffer.from(hash.padEnd(64).slice(0, 64)));
}

/** Whether a word is the service's own and lets this visitor in here. */
function passes(
  table: LiveTable,
  word: string | undefined,
  shown: { readonly host: string; readonly visitor: string | null; readonly now: number },
): boolean {
  const pass = word === undefined ? undefined : table.vouchedFor(word);
  return pass !== undefined && passHolds(pass, shown);
}
