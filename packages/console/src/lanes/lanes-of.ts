import { queryOptions } from '@tanstack/react-query';
import { environmentRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** The lanes of a project: its environments, what each serves and served, and what waits. */
export const lanesOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'lanes'],
    queryFn: ({ signal }) =>
      api.call(environmentRoutes.lanesRoute, { params: { project }, query: { days: 7 }, signal }),
  });
