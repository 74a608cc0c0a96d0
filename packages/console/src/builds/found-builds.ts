import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import { buildRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** Builds that a text finds; what was found before stays until the next answer comes. */
export const foundBuilds = (project: string, text: string) =>
  queryOptions({
    queryKey: [project, 'find', text],
    queryFn: ({ signal }) =>
      api.call(buildRoutes.findBuildsRoute, { params: { project }, query: { text }, signal }),
    enabled: text.trim() !== '',
    placeholderData: keepPreviousData,
    staleTime: 5_000,
  });
