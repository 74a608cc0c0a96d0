import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { buildRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** Where reading begins: with a line, or with the last ones before one. */
export type LogStart = { readonly from: number } | { readonly before: number };

/** Behind every line that a log can have. */
export const endOfLog: LogStart = { before: 1_000_000_000 };

/** Which lines are wanted. */
export interface LogWish {
  readonly step?: string;
  readonly find?: string;
}

const linesAtOnce = 500;
/** So many pages are kept at once: a log has no end, and a browser has. */
const mostPages = 6;

/** A log that is over, as far as it was asked for: what is in sight, and more of it in either direction. */
export function useWholeLog(
  { project, build, attempts }: { project: string; build: number; attempts: number },
  wish: LogWish,
  start: LogStart,
  /** Which jump it is: what was left far from where it began is begun anew. */
  jump: number,
) {
  return useInfiniteQuery({
    // Not below the project: nothing that happens there changes it.
    queryKey: ['log', project, build, attempts, wish, start, jump],
    initialPageParam: start,
    queryFn: ({ pageParam, signal }) =>
      api.call(buildRoutes.logLinesRoute, {
        params: { project, build },
        query: { ...wish, ...pageParam, limit: linesAtOnce },
        signal,
      }),
    getNextPageParam: ({ lines, more }): LogStart | undefined =>
      more ? { from: (lines.at(-1)?.number ?? 0) + 1 } : undefined,
    getPreviousPageParam: ({ lines, earlier }): LogStart | undefined =>
      earlier ? { before: lines[0]?.number ?? 1 } : undefined,
    maxPages: mostPages,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
    placeholderData: keepPreviousData,
  });
}
