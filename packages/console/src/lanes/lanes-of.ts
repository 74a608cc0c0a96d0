import { queryOptions } from '@tanstack/react-query';
import { environmentRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** The lanes of a project: its environments, what each serves and served over some days, and what waits. */
export const lanesOf = (project: string, days = 7) =>
  queryOptions({
    queryKey: [project, 'lanes', days],
    queryFn: ({ signal }) =>
      api.call(environmentRoutes.lanesRoute, { params: { project }, query: { days }, signal }),
  });
