import { queryOptions } from '@tanstack/react-query';
import { recipeRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** The recipe in force, and what it is measured against. */
export const recipeOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'recipe'],
    queryFn: ({ signal }) =>
      api.call(recipeRoutes.showRecipeRoute, { params: { project }, signal }),
  });
