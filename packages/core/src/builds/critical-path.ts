/** A step as far as its times go: in milliseconds since 1970 UTC. */
export interface TimedStep {
  readonly name: string;
  readonly after: readonly string[];
  readonly startedAt: number | null;
  readonly endedAt: number | null;
}

/**
 * The names of the steps that decided when the last one ended: from that one back, each time to the step
 * it waited for longest. `now` stands for the end of what still runs.
 */
export function criticalPath(steps: readonly TimedStep[], now: number): ReadonlySet<string> {
  const byName = new Map(steps.map((step) => [step.name, step]));
  const endOf = (step: TimedStep): number => (step.startedAt === null ? 0 : (step.endedAt ?? now));
  const latest = (some: readonly TimedStep[]): TimedStep | undefined =>
    some.toSorted((a, b) => endOf(b) - endOf(a))[0];
  const path = new Set<string>();
  let at = latest(steps.filter((step) => step.startedAt !== null));
  while (at !== undefined && !path.has(at.name)) {
    path.add(at.name);
    at = latest(at.after.flatMap((name) => byName.get(name) ?? []));
  }
  return path;
}

/** How long builds usually take: the middle of earlier ones, and the span in which four of five lay. */
export interface UsualTime {
  readonly medianMs: number;
  readonly shortMs: number;
  readonly longMs: number;
  readonly of: number;
}

/** The usual time over some earlier ones; null without any. */
export function usualTime(tookMs: readonly number[]): UsualTime | null {
  const sorted = tookMs.toSorted((a, b) => a - b);
  const at = (share: number): number =>
    sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0;
  return sorted.length === 0
    ? null
    : { medianMs: at(0.5), shortMs: at(0.1), longMs: at(0.9), of: sorted.length };
}
