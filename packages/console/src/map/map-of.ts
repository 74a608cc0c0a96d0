import { queryOptions } from '@tanstack/react-query';
import { mapRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** The map of a project, and what it matches now. */
export const mapOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'map'],
    queryFn: ({ signal }) => api.call(mapRoutes.showMapRoute, { params: { project }, signal }),
  });

/** Every version of it. */
export const mapVersionsOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'map-versions'],
    queryFn: ({ signal }) => api.call(mapRoutes.mapVersionsRoute, { params: { project }, signal }),
  });

/** What a text would change, were it set. */
export const mapTrialOf = (project: string, text: string) =>
  queryOptions({
    queryKey: [project, 'map-trial', text],
    queryFn: ({ signal }) =>
      api.call(mapRoutes.tryMapRoute, { params: { project }, body: { text }, signal }),
  });

/** Who and what can reach which environment. */
export const reachOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'reach'],
    queryFn: ({ signal }) => api.call(mapRoutes.reachRoute, { params: { project }, signal }),
  });

/** Where a ref goes; what a commit, a person or an environment may. */
export const whyOf = (project: string, ref: string) =>
  queryOptions({
    queryKey: [project, 'map-why', ref],
    queryFn: ({ signal }) =>
      api.call(mapRoutes.whyRoute, { params: { project }, query: { ref }, signal }),
  });
