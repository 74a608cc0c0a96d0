import type { Digest, Sha256 } from '../digest.ts';
import type { Instant } from '../instant.ts';

/** A value as JSON knows it. */
export type Json =
  | null
  | boolean
  | number
  | string
  | readonly Json[]
  | { readonly [key: string]: Json };

/** Who decided: a person, a runner or an edge, or Vaquero itself. */
export interface Actor {
  readonly kind: 'person' | 'machine' | 'vaquero';
  readonly id: string;
  /** By which token or session; null for machines, which have one, and for Vaquero. */
  readonly by: { readonly kind: 'session' | 'token'; readonly id: string } | null;
}

/** One decision at its place in the one order, in the form that is written. */
export interface LogEntry {
  readonly form: 2;
  readonly position: number;
  readonly at: Instant;
  readonly kind: string;
  readonly project: { readonly id: string; readonly name: string } | null;
  readonly who: Actor;
  readonly through: string;
  /** A salted hash of the address the decision came from; the address itself is kept beside the log. */
  readonly origin: Digest | null;
  /** The call that it was decided in; its number stands in the service's own log, too. */
  readonly request: string | null;
  readonly facts: { readonly [key: string]: Json };
  /** What was set anew, as it was and as it is now; of a secret a keyed digest. */
  readonly before: Json;
  readonly after: Json;
  /** A salted hash of the reason that was given; the words themselves are kept beside the log. */
  readonly why: Digest | null;
}

/** An entry of either form, as far as both say something. */
export type ReadEntry = Omit<LogEntry, 'form'> & { readonly form: 1 | 2 };

/**
 * The exact bytes of an entry: JSON with keys sorted by code unit, no white space, numbers as integers.
 * The same entry gives the same bytes on every machine, so a leaf hash can be made again from the fields.
 */
export function encodeEntry(entry: LogEntry): string {
  const { project, who } = entry;
  return canonical({
    ...entry,
    project: project === null ? null : { ...project },
    who: { ...who, by: who.by === null ? null : { ...who.by } },
    facts: { ...entry.facts },
  });
}

/**
 * Reads an entry. One of form 1, which was written until 0.10, said less: its project had a name alone, its actor no
 * token and no session, and nothing said what was before. Throws on bytes that are no entry.
 */
export function readEntry(bytes: string): ReadEntry {
  const read = JSON.parse(bytes) as LogEntry & FirstForm;
  if (read.form === 2) return read;
  const { actor, project, position, at, kind, through, origin, facts } = read;
  if (actor === undefined) throw new SyntaxError('neither form of an entry');
  return {
    form: 1,
    position,
    at,
    kind,
    project: project === null ? null : { id: '', name: String(project) },
    who: { ...actor, by: null },
    through,
    origin,
    request: null,
    facts,
    before: null,
    after: null,
    why: null,
  };
}

interface FirstForm {
  readonly actor?: Pick<Actor, 'kind' | 'id'>;
}

/** JSON with sorted keys and no white space. Throws a RangeError on a number that is not a safe integer. */
export function canonical(value: Json): string {
  if (typeof value === 'number' && !Number.isSafeInteger(value)) {
    throw new RangeError(`not a safe integer: ${value}`);
  }
  if (value === null || typeof value !== 'object') return JSON.stringify(value);
  if (isList(value)) return `[${value.map(canonical).join(',')}]`;
  const fields = Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${fields.map(([key, field]) => `${JSON.stringify(key)}:${canonical(field)}`).join(',')}}`;
}

function isList(value: object): value is readonly Json[] {
  return Array.isArray(value);
}

/** The leaf hash of an entry's bytes. Source: RFC 9162 section 2.1.1, SHA-256(0x00 || entry). */
export function leafHash(bytes: string, sha256: Sha256): Digest {
  return sha256(`\u0000${bytes}`);
}
