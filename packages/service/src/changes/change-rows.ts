import { and, desc, eq, isNotNull, sql } from 'drizzle-orm';
import { madeOnce } from '../database/made-once.ts';
import type { Db } from '../database/pool.ts';
import { changes } from '../database/tables.ts';

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
