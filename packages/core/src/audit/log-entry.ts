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

/** Who decided: a person through a session or a token, or Vaquero itself. */
export interface Actor {
  readonly kind: 'person' | 'vaquero';
  readonly id: string;
}

/** One decision, before it has its place in the one order. */
export interface LogEntry {
  readonly position: number;
  readonly at: Instant;
  readonly kind: string;
  readonly project: string | null;
  readonly actor: Actor;
  readonly through: string;
  /** A salted hash of the address the decision came from; the address itself is kept beside the log. */
  readonly origin: string | null;
  readonly facts: { readonly [key: string]: Json };
}

/**
 * The exact bytes of an entry: JSON with keys sorted by code unit, no white space, numbers as integers.
 * The same entry gives the same bytes on every machine, so a leaf hash can be made again from the fields.
 */
export function encodeEntry(entry: LogEntry): string {
  return canonical({ ...entry, actor: { ...entry.actor }, facts: { ...entry.facts } });
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
