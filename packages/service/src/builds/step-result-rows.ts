import type { Digest } from '@vaquero/core';
import { and, desc, eq } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { builds, stepResults } from '../database/tables.ts';
import { isDuplicate } from '../database/transaction.ts';

export type StepResultRow = typeof stepResults.$inferSelect;

/** What a step's inputs gave before, and in which build. */
export async function resultUnder(
  db: Db,
  projectId: string,
  key: Digest,
): Promise<(StepResultRow & { readonly build: number }) | undefined> {
  const [row] = await db
    .select({ result: stepResults, build: builds.number })
    .from(stepResults)
    .innerJoin(builds, eq(builds.id, stepResults.buildId))
    .where(and(eq(stepResults.projectId, projectId), eq(stepResults.key, key)));
  return row === undefined ? undefined : { ...row.result, build: row.build };
}

/** The newest results of a project by their keys, in one reading: a build asks for dozens one after the other. */
export async function recentResults(
  db: Db,
  projectId: string,
  most: number,
): Promise<ReadonlyMap<string, StepResultRow & { readonly build: number }>> {
  const rows = await db
    .select({ result: stepResults, build: builds.number })
    .from(stepResults)
    .innerJoin(builds, eq(builds.id, stepResults.buildId))
    .where(eq(stepResults.projectId, projectId))
    .orderBy(desc(stepResults.at))
    .limit(most);
  return new Map(rows.map(({ result, build }) => [result.key, { ...result, build }]));
}

/**
 * Notes a result under its key; the newest stands. Returns the output that stood there, if it was another.
 */
export async function noteStepResult(db: Db, row: StepResultRow): Promise<string | null> {
  try {
    await db.insert(stepResults).values(row);
    return null;
  } catch (error) {
    if (!isDuplicate(error)) throw error;
  }
  const standing = await resultUnder(db, row.projectId, row.key);
  const { projectId: _, key: __, ...rest } = row;
  await db
    .update(stepResults)
    .set(rest)
    .where(and(eq(stepResults.projectId, row.projectId), eq(stepResults.key, row.key)));
  return standing === undefined || standing.output === row.output ? null : standing.output;
}
