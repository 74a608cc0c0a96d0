import { queryOptions } from '@tanstack/react-query';
import { edgeRoutes, runnerRoutes } from '@vaquero/contracts';
import { api, queries } from '../http/api.ts';

/** What builds and what serves, asked again while one looks: a machine goes silent by itself. */
export const machines = queryOptions({
  queryKey: ['machines'],
  queryFn: async ({ signal }) => {
    const [{ runners }, { edges }] = await Promise.all([
      api.call(runnerRoutes.listRunnersRoute, { signal }),
      api.call(edgeRoutes.listEdgesRoute, { signal }),
    ]);
    return { runners, edges };
  },
  refetchInterval: 5_000,
});

/** Has them read again behind an act. */
export const settled = () => queries.invalidateQueries(machines);
