import { and, eq } from 'drizzle-orm';
import type { Tx } from '../database/pool.ts';
import { inspections } from '../database/tables.ts';

/** Whether a secret was found in an artifact. */
export async function leaksIn(tx: Tx, projectId: string, artifact: string): Promise<boolean> {
  const [row] = await tx
    .select({ leaks: inspections.leaks })
    .from(inspections)
    .where(and(eq(inspections.projectId, projectId), eq(inspections.artifact, artifact)));
  return row?.leaks ?? false;
}
