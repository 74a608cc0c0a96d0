import { and, desc, eq, inArray, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import { madeOnce } from '../database/made-once.ts';
import type { Db, Tx } from '../database/pool.ts';
import { builds, changes } from '../database/tables.ts';

/** The id of who pushed a ref last, as far as somebody is known who did; null where nobody is. */
export async function lastPusherOf(
  db: Db,
  repositoryId: string,
  ref: string,
): Promise<string | null> {
  const [last] = await lastPush(db).execute({ repositoryId, ref });
  return last?.actorId ?? null;
}

const lastPush = madeOnce((db) =>
  db
    .select({ actorId: changes.actorId })
    .from(changes)
    .where(
      and(
        eq(changes.repositoryId, sql.placeholder('repositoryId')),
        eq(changes.ref, sql.placeholder('ref')),
        isNotNull(changes.actorId),
      ),
    )
    .orderBy(desc(changes.look))
    .limit(1)
    .prepare(),
);

/** Writes a change of a ref down. */
export async function insertChange(tx: Tx, row: typeof changes.$inferInsert): Promise<void> {
  await tx.insert(changes).values(row);
}

/** Forgets changes before an instant of which nothing was built, so many at most. */
export async function forgetUnbuilt(db: Db, before: number, most: number): Promise<void> {
  const unbuilt = await db
    .select({ id: changes.id })
    .from(changes)
    .leftJoin(builds, eq(builds.changeId, changes.id))
    .where(and(lt(changes.at, before), isNull(builds.id)))
    .limit(most);
  if (unbuilt.length === 0) return;
  const those = unbuilt.map(({ id }) => id);
  await db.delete(changes).where(inArray(changes.id, those));
}
