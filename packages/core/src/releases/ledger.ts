import type { Digest } from '../digest.ts';
import type { Instant } from '../instant.ts';

/** How a deploy came about. */
export const deployKinds = ['automatic', 'let-in', 'promoted', 'rolled-back'] as const;
export type DeployKind = (typeof deployKinds)[number];

/** One entry of an environment's ledger, as far as decisions look at it. Numbers rise by one. */
export interface LedgerEntry {
  readonly number: number;
  readonly kind: DeployKind;
  readonly artifact: Digest;
  readonly build: number;
  readonly committedAt: Instant;
  /** The deploys that a rollback undid, first and last; null for every other kind. */
  readonly undoes: { readonly first: number; readonly last: number } | null;
  /** Whether the bytes are still stored. */
  readonly kept: boolean;
}

/** The numbers of all deploys that some rollback has undone. */
export function undoneNumbers(ledger: readonly Pick<LedgerEntry, 'undoes'>[]): ReadonlySet<number> {
  const undone = new Set<number>();
  for (const { undoes } of ledger) {
    if (undoes === null) continue;
    for (let number = undoes.first; number <= undoes.last; number += 1) undone.add(number);
  }
  return undone;
}

/** The deploy that was live at an instant; undefined before the first. The ledger comes oldest first. */
export function liveAt<Entry extends Pick<LedgerEntry, 'committedAt'>>(
  ledger: readonly Entry[],
  at: Instant,
): Entry | undefined {
  return ledger.findLast((entry) => entry.committedAt <= at);
}

/** How long each deploy was live, in milliseconds, by its place in a ledger that comes oldest first. */
export function liveForMs(
  ledger: readonly Pick<LedgerEntry, 'committedAt'>[],
  now: Instant,
): readonly number[] {
  return ledger.map((entry, place) => (ledger[place + 1]?.committedAt ?? now) - entry.committedAt);
}
