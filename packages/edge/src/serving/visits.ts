import type { roleRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';

/** What an answer was, as figures count it. */
export interface Answered {
  readonly project: string;
  readonly environment: string;
  readonly deploy: number;
  readonly status: number;
  readonly bytes: number;
  /** Until its first byte went out. */
  readonly tookMs: number;
  /** What was asked for, without its query. */
  readonly path: string;
}

/** Figures of what visitors asked for: counts by deploy and minute, and nothing of a person. */
export interface Visits {
  readonly count: (answered: Answered) => void;
  /** Adds what was counted elsewhere. */
  readonly add: (rows: roleRoutes.FiguresBatch['rows']) => void;
  /** What was counted and is told by somebody else. */
  readonly drain: () => roleRoutes.FiguresBatch['rows'];
  /**
   * What the service is told next: the batch that it has not taken yet, or a new one of all that was counted since.
   * Null when there is nothing. A batch never changes, so that one which is told twice is known by its number.
   */
  readonly batch: () => roleRoutes.FiguresBatch | null;
  readonly taken: (number: number) => void;
}

const minuteMs = 60_000;
export const slowMs = 1000;
/** So many paths of a deploy are counted between two heartbeats; a scan that asks for thousands tells nothing more. */
const mostPaths = 100;
const longestPath = 200;
const mostRows = 1000;

type Row = Omit<roleRoutes.FiguresBatch['rows'][number], 'misses'> & {
  misses: Map<string, number>;
};

/** Makes what counts. `clock` says the time in milliseconds since 1970. */
export function makeVisits(clock: () => number): Visits {
  let rows = new Map<string, Row>();
  let told: roleRoutes.FiguresBatch | null = null;
  let last = 0;

  /** The row of a deploy and minute. */
  const rowOf = (of: Pick<Row, 'project' | 'environment' | 'deploy' | 'from'>): Row => {
    const { project, environment, deploy, from } = of;
    const key = `${project} ${environment} ${deploy} ${from}`;
    const known = rows.get(key);
    if (known !== undefined) return known;
    // While the service is away minutes pile up: the oldest go, since what is new tells more.
    if (rows.size >= mostRows) rows.delete(rows.keys().next().value ?? '');
    const row = { project, environment, deploy, from, ...nothing, misses: new Map() };
    rows.set(key, row);
    return row;
  };
  const drain = (): roleRoutes.FiguresBatch['rows'] => {
    const counted = [...rows.values()].map(({ misses, ...row }) => ({
      ...row,
      misses: [...misses].map(([path, times]) => ({ path, times })),
    }));
    rows = new Map();
    return counted;
  };

  return {
    count: ({ project, environment, deploy, status, bytes, tookMs, path }) => {
      const from = (Math.floor(clock() / minuteMs) * minuteMs) as Instant;
      const row = rowOf({ project, environment, deploy, from });
      row.requests += 1;
      row.bytes += bytes;
      row[kindOf(status)] += 1;
      if (tookMs > slowMs) row.slow += 1;
      if (status === 404) miss(row, path.slice(0, longestPath), 1);
    },
    add: (counted) => {
      for (const one of counted) {
        const row = rowOf(one);
        for (const figure of figures) row[figure] += one[figure];
        for (const { path, times } of one.misses) miss(row, path, times);
      }
    },
    drain,
    batch: () => {
      if (told === null && rows.size > 0) {
        last += 1;
        told = { number: last, rows: drain() };
      }
      return told;
    },
    taken: (number) => {
      if (told?.number === number) told = null;
    },
  };
}

function miss({ misses }: Row, path: string, times: number): void {
  const before = misses.get(path);
  if (before !== undefined || misses.size < mostPaths) misses.set(path, (before ?? 0) + times);
}

const nothing = { requests: 0, bytes: 0, found: 0, redirected: 0, missed: 0, failed: 0, slow: 0 };
const figures = Object.keys(nothing) as (keyof typeof nothing)[];

/** Classes of statuses. Source: RFC 9110 section 15. */
function kindOf(status: number): 'found' | 'redirected' | 'missed' | 'failed' {
  if (status >= 500) return 'failed';
  if (status >= 400) return 'missed';
  return status >= 300 ? 'redirected' : 'found';
}
