import { queryOptions } from '@tanstack/react-query';
import { projectRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** Whether a name may be had, and where a project of it would answer by its first map. */
export const nameTrialOf = (name: string, map: string | null) =>
  queryOptions({
    queryKey: ['project-name', name, map],
    queryFn: ({ signal }) =>
      api.call(projectRoutes.tryProjectRoute, { body: { name, map }, signal }),
    enabled: name !== '',
    placeholderData: (before) => before,
  });
