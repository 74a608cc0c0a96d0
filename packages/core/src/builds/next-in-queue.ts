/** A build that waits: the oldest of its project. */
export interface Waiting {
  readonly id: string;
  readonly project: string;
  readonly priority: number;
}

/**
 * Chooses the build that starts next. Projects with fewer running builds come first, so that one which
 * queues a hundred does not hold up the others; then the higher priority, then whichever waits longest.
 * `waiting` stands in the order of queueing. Null when each waiting project has as many as it may have.
 */
export function nextInQueue(
  waiting: readonly Waiting[],
  running: ReadonlyMap<string, number>,
  mostOfOneProject: number,
): Waiting | null {
  const count = (one: Waiting): number => running.get(one.project) ?? 0;
  const may = waiting.filter((one) => count(one) < mostOfOneProject);
  return may.toSorted((a, b) => count(a) - count(b) || b.priority - a.priority)[0] ?? null;
}
