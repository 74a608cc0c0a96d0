import type { Request } from 'express';

/** The version that a call says it saw (`If-Match`, one strong tag or `*`); null for none. Source: RFC 9110, section 13.1.1. */
export function seenIn(req: Request): string | null {
  const given = (req.headers['if-match'] ?? '').trim();
  if (given === '*') return given;
  return /^"([^"]*)"$/.exec(given)?.[1] ?? null;
}
