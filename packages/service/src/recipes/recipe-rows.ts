import { recipeRoutes } from '@vaquero/contracts';
import type { Instant, Recipe } from '@vaquero/core';
import { and, desc, eq, isNotNull } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import type { Db, Tx } from '../database/pool.ts';
import { acceptedRecipes, builds, people } from '../database/tables.ts';

export async function latestAccepted(
  db: Db | Tx,
  projectId: string,
): Promise<{ version: number; recipe: Recipe; by: string; at: Instant } | null> {
  const [row] = await db
    .select({
      version: acceptedRecipes.version,
      recipe: acceptedRecipes.recipe,
      by: people.shownAs,
      at: acceptedRecipes.at,
    })
    .from(acceptedRecipes)
    .innerJoin(people, eq(people.id, acceptedRecipes.personId))
    .where(eq(acceptedRecipes.projectId, projectId))
    .orderBy(desc(acceptedRecipes.version))
    .limit(1);
  // One that an earlier version kept says less.
  return row === undefined
    ? null
    : {
        ...row,
        recipe: recipeRoutes.recipeSeen.parse(row.recipe) as Recipe,
        at: row.at as Instant,
      };
}

/** Keeps a newly accepted recipe as the next version; two at once collide on the key and one is told. */
export async function insertAccepted(
  tx: Tx,
  row: { projectId: string; version: number; recipe: Recipe; personId: string; at: Instant },
): Promise<void> {
  await tx.insert(acceptedRecipes).values(row);
}

/** Which folder the last good build has shown to be the site; null before one, and where nothing is served. */
export async function folderShown(
  deps: Deps,
  projectId: string,
): Promise<{ build: number; site: string; missing: string | null } | null> {
  const [row] = await deps.db
    .select({ number: builds.number, recipe: builds.recipe })
    .from(builds)
    .where(and(eq(builds.projectId, projectId), isNotNull(builds.artifact)))
    .orderBy(desc(builds.number))
    .limit(1);
  const serve = row?.recipe?.recipe.serve;
  return row === undefined || serve == null || serve.site === null
    ? null
    : { build: row.number, site: serve.site, missing: serve.missing };
}
