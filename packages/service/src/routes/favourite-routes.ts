import { favouriteRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { serve } from '../http/serve-route.ts';
import { maySee } from '../people/caller.ts';
import { dropFavourite, favouritesOf, putFavourite } from '../projects/favourite-rows.ts';

/** Serves the projects that somebody wants first: theirs alone, and no decision of anybody's. */
export function serveFavourites(app: Express, deps: Deps): void {
  serve(app, deps, favouriteRoutes.listFavouritesRoute, async ({ caller }) => {
    const own = await favouritesOf(deps.db, caller.personId);
    return { projects: own.filter(({ id }) => maySee(caller, id)).map(({ name }) => name) };
  });
  serve(app, deps, favouriteRoutes.putFavouriteRoute, async ({ project, caller }) => {
    await putFavourite(deps.db, caller.personId, project.id);
    return null;
  });
  serve(app, deps, favouriteRoutes.dropFavouriteRoute, async ({ project, caller }) => {
    await dropFavourite(deps.db, caller.personId, project.id);
    return null;
  });
}
