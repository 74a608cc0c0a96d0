import { queryOptions } from '@tanstack/react-query';
import { comparisonRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

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
  });
