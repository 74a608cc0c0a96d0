import { and, eq } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { provenances } from '../database/tables.ts';

/** A signed statement of where an artifact came from, as it is kept with the build. */
export type ProvenanceRow = typeof provenances.$inferInsert;

/** Keeps a statement with its build. */
export async function keepProvenance(tx: Tx, row: ProvenanceRow): Promise<void> {
  const { artifact, envelope } = row;
  await tx.insert(provenances).values(row).onDuplicateKeyUpdate({ set: { artifact, envelope } });
}

/** The signed statement of where a build's artifact came from; undefined where none was made. */
export async function provenanceOf(db: Db, projectId: string, buildId: string) {
  const [row] = await db
    .select()
    .from(provenances)
    .where(and(eq(provenances.projectId, projectId), eq(provenances.buildId, buildId)));
  return row;
}
