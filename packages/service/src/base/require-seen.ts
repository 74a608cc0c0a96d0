import type { Instant } from '@vaquero/core';
import { refused } from './refused.ts';

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
