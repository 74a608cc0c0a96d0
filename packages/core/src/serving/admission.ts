import type { Instant } from '../instant.ts';

/** Whom an environment admits, the most open first: everybody, whoever has a lent link besides members, members alone. */
export const admissions = ['anyone', 'link', 'members'] as const;
export type Admits = (typeof admissions)[number];

/** The most closed of several; members alone where there is none. */
export function strictest(all: readonly Admits[]): Admits {
  return admissions.findLast((one) => all.includes(one)) ?? 'members';
}

/** What the service vouches for: that a visitor, told by a secret of their own, may see a host for a while. */
export interface Pass {
  readonly host: string;
  /** The SHA-256 of the visitor's own cookie; null for a program, which shows the pass itself. */
  readonly visitor: string | null;
  readonly person: string;
  readonly until: Instant;
}

/** How long a pass holds: a grant that has ended closes within that. */
export const passLastsMs = 3_600_000;

/** The part of a pass that is signed; nothing else that is signed with the same key begins so. */
export function passText({ host, visitor, person, until }: Pass): string {
  return `vaquero-pass.1\n${host}\n${visitor ?? ''}\n${person}\n${until}`;
}

/** A pass as a word that stands in cookies, addresses and header fields. */
export function writePass({ host, visitor, person, until }: Pass, signature: string): string {
  return [host, visitor ?? '', person, String(until), signature].map(encodeURIComponent).join(':');
}

/** Reads such a word; what it says is believed by nobody before its signature was checked. Undefined when it is none. */
export function readPass(
  word: string,
): { readonly pass: Pass; readonly signature: string } | undefined {
  if (word.length > longestPass) return undefined;
  const parts = word.split(':').map(decoded);
  const [host, visitor, person, until, signature] = parts;
  if (parts.length !== 5 || host === undefined || visitor === undefined) return undefined;
  if (person === undefined || signature === undefined || !/^\d{1,15}$/.test(until ?? ''))
    return undefined;
  const pass = {
    host,
    visitor: visitor === '' ? null : visitor,
    person,
    until: Number(until) as Instant,
  };
  // A line end would let one part stand for two.
  return /[\n\r]/.test(parts.join('')) ? undefined : { pass, signature };
}

const longestPass = 1_000;

function decoded(part: string): string | undefined {
  try {
    return decodeURIComponent(part);
  } catch {
    return undefined; // A percent sign that stands for nothing: no word of ours.
  }
}

/** Whether a pass lets in who shows it. `visitor` is what their cookie hashes to; null where they have none. */
export function passHolds(
  { host, visitor, until }: Pass,
  shown: { readonly host: string; readonly visitor: string | null; readonly now: number },
): boolean {
  return host === shown.host && visitor === shown.visitor && shown.now < until;
}

/** Where a visitor goes on after they were let in: a path of the same host, whatever the address says. */
export function returnPath(said: string | null): string {
  if (said === null || said.length > 4_000) return '/';
  // A second slash, or what browsers take for one, would name another host.
  return /^\/(?![/\\])[\x21-\x7e]*$/.test(said) && !said.startsWith(admissionPath) ? said : '/';
}

/** Addresses of the edge's own, below which no site is asked. */
export const admissionPath = '/.vaquero/';
