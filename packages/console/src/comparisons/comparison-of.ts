import { queryOptions } from '@tanstack/react-query';
import { comparisonRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** How soon it is asked again, by how far pictures are: a runner that takes some is done in seconds, one that can may never come. */
const againMs: Readonly<Record<string, number>> = { wanted: 10_000, taking: 3_000 };

/** What differs between the artifacts of two builds. Artifacts never change, so neither does that. */
export const comparisonOf = (project: string, before: number, after: number) =>
  queryOptions({
    // Not below the project: nothing that happens there changes it.
    queryKey: ['comparison', project, before, after],
    queryFn: ({ signal }) =>
      api.call(comparisonRoutes.compareRoute, {
        params: { project },
        query: { before, after },
        signal,
      }),
    staleTime: Number.POSITIVE_INFINITY,
    // But for its pictures, which are taken beside: nobody decides that they are there.
    refetchInterval: ({ state: { data } }) => againMs[data?.pictures?.state ?? 'none'] ?? false,
  });
