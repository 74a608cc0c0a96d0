import { queryOptions } from '@tanstack/react-query';
import { variableRoutes } from '@vaquero/contracts';
import { api } from '../http/api.ts';

/** Variables and secrets that builds of a project are given. */
export const variablesOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'variables'],
    queryFn: ({ signal }) =>
      api.call(variableRoutes.listVariablesRoute, { params: { project }, signal }),
  });

/** Which builds a value is for, in words. */
export function placeInWords({ environment }: { readonly environment: string }): string {
  return environment === '' ? 'every build' : environment;
}
