import { recipeRoutes } from '@vaquero/contracts';
import type { Instant, Recipe } from '@vaquero/core';
import { desc, eq } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { acceptedRecipes, people } from '../database/tables.ts';

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
