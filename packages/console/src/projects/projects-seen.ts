import { queryOptions } from '@tanstack/react-query';
import { environmentRoutes, everyProject } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** The projects that one may see. */
export const projectsSeen = queryOptions({
  queryKey: ['projects'],
  queryFn: async ({ signal }) => (await everyProject(api, signal)).projects,
});

/** What is live in each of them. */
export const liveEverywhere = queryOptions({
  queryKey: ['projects', 'live'],
  queryFn: ({ signal }) => api.call(environmentRoutes.liveRoute, { signal }),
});
