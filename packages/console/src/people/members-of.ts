import { queryOptions } from '@tanstack/react-query';
import { memberRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** Who may do what in a project, and invitations that wait. */
export const membersOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'members'],
    queryFn: ({ signal }) =>
      api.call(memberRoutes.listMembersRoute, { params: { project }, signal }),
  });
