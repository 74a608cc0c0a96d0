import { z } from 'zod';
import { route } from '../http/route.ts';
import { done, nothing } from '../vocabulary.ts';

/** The projects that somebody wants first, by name; those alone that they may see. */
export const listFavouritesRoute = route({
  method: 'GET',
  path: '/api/me/favourites',
  summary: 'Lists the projects that one wants first',
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: z.object({ projects: z.array(z.string()) }),
});
export const putFavouriteRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/favourite',
  summary: 'Has a project among those that one wants first',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: done,
});
export const dropFavouriteRoute = route({
  method: 'DELETE',
  path: '/api/projects/:project/favourite',
  summary: 'Has a project no more among those that one wants first',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: done,
});
