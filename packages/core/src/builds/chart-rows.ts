/** A row of a step chart: what it is named, when it ran, and whether the build's end hung on it. */
export interface ChartRow {
  readonly name: string;
  readonly startedAt: number | null;
  readonly endedAt: number | null;
  readonly critical: boolean;
}

/** A vertical stretch of the critical path within one row, at an instant. */
export interface Descent {
  readonly at: number;
  readonly from: 'top' | 'bar';
  readonly to: 'bar' | 'bottom';
}

/**
 * How the critical path runs down a step chart: for each row, in the order they are drawn, the vertical
 * stretches that join the end of one critical step to the beginning of the next.
 */
export function descents(rows: readonly ChartRow[]): readonly (readonly Descent[])[] {
  const made: Descent[][] = rows.map(() => []);
  const path = rows
    .map((row, place) => ({ ...row, place }))
    .filter((row) => row.critical && row.startedAt !== null)
    .sort((a, b) => (a.startedAt ?? 0) - (b.startedAt ?? 0));
  for (const [index, row] of path.entries()) {
    const next = path[index + 1];
    if (next === undefined || row.endedAt === null || next.place <= row.place) continue;
    for (let place = row.place; place <= next.place; place += 1) {
      made[place]?.push({
        at: row.endedAt,
        from: place === row.place ? 'bar' : 'top',
        to: place === next.place ? 'bar' : 'bottom',
      });
    }
  }
  return made;
}
