import { queryOptions, useMutation, useQuery } from '@tanstack/react-query';
import { favouriteRoutes } from '@vaquero/contracts';
import { api, queries } from '../http/api.ts';

/** The projects that one wants first. */
const favouritesSeen = queryOptions({
  queryKey: ['favourites'],
  queryFn: ({ signal }) => api.call(favouriteRoutes.listFavouritesRoute, { signal }),
  select: ({ projects }): ReadonlySet<string> => new Set(projects),
  staleTime: 60_000,
});

const none: ReadonlySet<string> = new Set();

/** The names of the projects that one wants first; none until they are known. */
export function useFavourites(): ReadonlySet<string> {
  return useQuery(favouritesSeen).data ?? none;
}

/** Puts a project among them, or takes it out. */
export function useSetFavourite() {
  return useMutation({
    mutationFn: ({ project, is }: { readonly project: string; readonly is: boolean }) =>
      api.call(is ? favouriteRoutes.putFavouriteRoute : favouriteRoutes.dropFavouriteRoute, {
        params: { project },
      }),
    onSettled: () => queries.invalidateQueries(favouritesSeen),
  });
}
