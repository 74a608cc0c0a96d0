import { queryOptions } from '@tanstack/react-query';
import { sourceRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** Which branch and folder a project is built from. */
export const sourceOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'source'],
    queryFn: ({ signal }) =>
      api.call(sourceRoutes.showSourceRoute, { params: { project }, signal }),
  });
