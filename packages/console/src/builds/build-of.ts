import { queryOptions } from '@tanstack/react-query';
import { buildRoutes } from '@vaquero/contracts';
import { isOpen } from '@vaquero/core';
import { api } from '../http/api.ts';

/** One build, asked for again while it goes on. */
export const buildOf = (project: string, number: number) =>
  queryOptions({
    queryKey: [project, 'build', number],
    queryFn: ({ signal }) =>
      api.call(buildRoutes.showBuildRoute, { params: { project, build: number }, signal }),
    refetchInterval: ({ state }) =>
      state.data !== undefined && isOpen(state.data.state) ? 1_000 : 30_000,
  });
