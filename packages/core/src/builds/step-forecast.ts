import type { TimedStep } from './critical-path.ts';

/** When a step that has not ended will begin and end, as earlier builds tell; in milliseconds since 1970 UTC. */
export interface Expected {
  readonly startsAt: number;
  readonly endsAt: number;
}

/**
 * Foretells the steps of a build that have not ended: each begins when all it comes after has ended, and
 * lasts as long as it usually does. A step that is over its usual time is expected to end now. Steps that
 * nothing is known of, and those behind them, have no entry. `steps` stand in an order in which each comes
 * behind all that it is after.
 */
export function forecastSteps(
  steps: readonly TimedStep[],
  usualMs: ReadonlyMap<string, number>,
  now: number,
): ReadonlyMap<string, Expected> {
  const ends = new Map<string, number | null>();
  const expected = new Map<string, Expected>();
  for (const step of steps) {
    if (step.endedAt !== null) {
      ends.set(step.name, step.endedAt);
      continue;
    }
    const usual = usualMs.get(step.name);
    const before = step.after.map((name) => ends.get(name) ?? null);
    const startsAt =
      step.startedAt ??
      (before.includes(null) ? null : Math.max(now, ...before.map((at) => at ?? now)));
    if (usual === undefined || startsAt === null) {
      ends.set(step.name, null);
      continue;
    }
    const endsAt = Math.max(now, startsAt + usual);
    ends.set(step.name, endsAt);
    expected.set(step.name, { startsAt, endsAt });
  }
  return expected;
}
