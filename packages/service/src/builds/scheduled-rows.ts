import { and, asc, desc, eq, gt, isNotNull, isNull } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { builds } from '../database/tables.ts';

/** The next name of a recipe that a project has built, in the order of the alphabet: one row of an index for each. */
export async function nextRecipe(db: Db, projectId: string, after: string): Promise<string | null> {
  const [row] = await db
    .select({ name: builds.recipeName })
    .from(builds)
    .where(and(eq(builds.projectId, projectId), gt(builds.recipeName, after)))
    .orderBy(asc(builds.recipeName))
    .limit(1);
  return row?.name ?? null;
}

/** The newest build of a recipe that is the project’s own, of one ref where it is named; undefined before the first. */
export async function newestWithRecipe(
  db: Db | Tx,
  projectId: string,
  recipe: string,
  ref: string | null,
) {
  const [row] = await db
    .select({ recipe: builds.recipe, queuedAt: builds.queuedAt })
    .from(builds)
    .where(
      and(
        eq(builds.projectId, projectId),
        isNotNull(builds.recipe),
        eq(builds.recipeName, recipe),
        // What a pull request wishes for is not yet what the project does.
        isNull(builds.proposedInto),
        ...(ref === null ? [] : [eq(builds.ref, ref)]),
      ),
    )
    .orderBy(desc(builds.number))
    .limit(1);
  return row;
}
