import { queryOptions } from '@tanstack/react-query';
import { serviceRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** The services of a project, with their tokens. */
export const servicesOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'services'],
    queryFn: ({ signal }) =>
      api.call(serviceRoutes.listServicesRoute, { params: { project }, signal }),
  });
