import { queryOptions } from '@tanstack/react-query';
import { buildRoutes } from '@vaquero/contracts';
import { isOpen } from '@vaquero/core';
import { api } from '../http/api.ts';

/** One build. */
export const buildOf = (project: string, number: number) =>
  queryOptions({
    queryKey: [project, 'build', number],
    queryFn: ({ signal }) =>
      api.call(buildRoutes.showBuildRoute, { params: { project, build: number }, signal }),
    // When a build begins and ends is foretold from those of other projects, too, which nobody tells it of.
    refetchInterval: ({ state }) =>
      state.data !== undefined && isOpen(state.data.state) ? 10_000 : false,
  });
