import { queryOptions } from '@tanstack/react-query';
import { groupRoutes, memberRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** Everybody of the installation, groups and services, with what they were granted. */
export const everybody = queryOptions({
  queryKey: ['people'],
  queryFn: ({ signal }) => api.call(memberRoutes.listPeopleRoute, { signal }),
});

/** Groups, and who is in them. */
export const everyGroup = queryOptions({
  queryKey: ['groups'],
  queryFn: ({ signal }) => api.call(groupRoutes.listGroupsRoute, { signal }),
});
