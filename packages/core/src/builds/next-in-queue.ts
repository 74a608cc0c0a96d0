/** A build that waits. */
export interface Waiting {
  readonly id: string;
  readonly project: string;
  readonly priority: number;
  /** Labels that its runner must bear. */
  readonly needs: readonly string[];
}

/** What a build asks of a runner, and whether one that bears these labels fulfils it. */
export function suits(needs: readonly string[], labels: readonly string[]): boolean {
  return needs.every((label) => labels.includes(label));
}

/** How projects fare: how many of their builds run, and when one last began (in any unit that grows). */
export interface Shares {
  readonly running: ReadonlyMap<string, number>;
  readonly lastBegan: ReadonlyMap<string, number>;
}

/**
 * Chooses the build that starts next. Projects with fewer running builds come first, so that one which
 * queues a hundred does not hold up the others; then the higher priority; then the project whose last build
 * began longest ago, so that they take turns on a single slot too; then whichever waits longest. `waiting`
 * stands in the order of queueing. Null when each waiting project has as many as it may have.
 */
export function nextInQueue<One extends Waiting>(
  waiting: readonly One[],
  { running, lastBegan }: Shares,
  mostOfOneProject: number,
): One | null {
  const count = (one: Waiting): number => running.get(one.project) ?? 0;
  const may = waiting.filter((one) => count(one) < mostOfOneProject);
  const began = (one: Waiting): number => lastBegan.get(one.project) ?? 0;
  return (
    may.toSorted(
      (a, b) => count(a) - count(b) || b.priority - a.priority || began(a) - began(b),
    )[0] ?? null
  );
}
