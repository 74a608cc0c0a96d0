import { queryOptions } from '@tanstack/react-query';
import { previewRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** The environments of families that live, those that end first standing first. */
export const previewsOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'previews'],
    queryFn: ({ signal }) =>
      api.call(previewRoutes.listPreviewsRoute, { params: { project }, signal }),
  });
