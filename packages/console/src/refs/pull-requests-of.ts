import { queryOptions } from '@tanstack/react-query';
import { pullRequestRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

export const pullRequestsOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'pull-requests'],
    queryFn: ({ signal }) =>
      api.call(pullRequestRoutes.listPullRequestsRoute, { params: { project }, signal }),
  });

export const pullRequestOf = (project: string, name: string) =>
  queryOptions({
    queryKey: [project, 'pull-requests', name],
    queryFn: ({ signal }) =>
      api.call(pullRequestRoutes.showPullRequestRoute, {
        params: { project, pullRequest: name },
        signal,
      }),
  });
