import { and, asc, eq, isNull } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { favourites, projects } from '../database/tables.ts';

/** The living projects that somebody wants first, by name. */
export async function favouritesOf(
  db: Db,
  personId: string,
): Promise<readonly { readonly id: string; readonly name: string }[]> {
  return db
    .select({ id: projects.id, name: projects.name })
    .from(favourites)
    .innerJoin(projects, and(eq(projects.id, favourites.projectId), isNull(projects.endedAt)))
    .where(eq(favourites.personId, personId))
    .orderBy(asc(projects.name));
}

/** Puts a project among them; nothing where it is there. */
export async function putFavourite(db: Db, personId: string, projectId: string): Promise<void> {
  await db.insert(favourites).ignore().values({ personId, projectId });
}

/** Takes a project from among them; nothing where it is not there. */
export async function dropFavourite(db: Db, personId: string, projectId: string): Promise<void> {
  await db
    .delete(favourites)
    .where(and(eq(favourites.personId, personId), eq(favourites.projectId, projectId)));
}
