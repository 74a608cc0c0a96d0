import { queryOptions } from '@tanstack/react-query';
import { projectRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** Whether a name may be had, and where a project of it would answer. */
export const nameTrialOf = (name: string) =>
  queryOptions({
    queryKey: ['project-name', name],
    queryFn: ({ signal }) => api.call(projectRoutes.tryProjectRoute, { body: { name }, signal }),
    enabled: name !== '',
    placeholderData: (before) => before,
  });
