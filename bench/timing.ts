/** How long some work takes, in ms. */
export function took(work: () => void): number {
  const begun = performance.now();
  work();
  return performance.now() - begun;
}

/** The one in the middle; 0 of none. */
export function median(times: readonly number[]): number {
  return times.toSorted((one, other) => one - other)[Math.floor(times.length / 2)] ?? 0;
}
