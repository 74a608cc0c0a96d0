import { infiniteQueryOptions, queryOptions } from '@tanstack/react-query';
import { pullRequestRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

export const pullRequestsOf = (project: string) =>
  infiniteQueryOptions({
    queryKey: [project, 'pull-requests'],
    queryFn: ({ pageParam, signal }) =>
      api.call(pullRequestRoutes.listPullRequestsRoute, {
        params: { project },
        query: { limit: 50, ...(pageParam === '' ? {} : { after: pageParam }) },
        signal,
      }),
    initialPageParam: '',
    getNextPageParam: (page) => (page.more ? page.pullRequests.at(-1)?.name : undefined),
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
