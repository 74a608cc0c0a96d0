/** A moment: whole milliseconds since 1970-01-01T00:00:00Z. */
export type Instant = number & { readonly brand: 'Instant' };

/** Reads a number of milliseconds since 1970 UTC. Undefined when it is not a whole, safe number from 0. */
export function readInstant(value: number): Instant | undefined {
  return Number.isSafeInteger(value) && value >= 0 ? (value as Instant) : undefined;
}

/** The instant that lies `ms` milliseconds after (or, negative, before) another; never before 1970. */
export function later(at: Instant, ms: number): Instant {
  return Math.max(0, Math.round(at + ms)) as Instant;
}
