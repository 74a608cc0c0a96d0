import type { Instant } from '@vaquero/core';
import type { Request } from 'express';
import { refused } from '../base/refused.ts';

/** The version that a call says it saw (`If-Match`, one strong tag or `*`); null for none. Source: RFC 9110, section 13.1.1. */
export function seenIn(req: Request): string | null {
  const given = (req.headers['if-match'] ?? '').trim();
  if (given === '*') return given;
  return /^"([^"]*)"$/.exec(given)?.[1] ?? null;
}

/** Who set something last, and when. */
export interface LastSet {
  readonly by: string;
  readonly at: Instant | null;
}

/**
 * Refuses (changed-since) a call that saw another version than the one there is, which the caller has locked.
 */
export async function requireSeen(
  seen: string | null,
  what: string,
  version: string,
  last: () => Promise<LastSet | null>,
): Promise<void> {
  if (seen === '*' || seen === version) return;
  const { by, at } = (await last()) ?? { by: 'somebody', at: null };
  refused({ code: 'changed-since', what, by, at });
}
