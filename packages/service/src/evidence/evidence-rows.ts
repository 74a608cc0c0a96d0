import type { Finding, Instant, TestReport } from '@vaquero/core';
import { and, asc, desc, eq, inArray } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { builds, evidence } from '../database/tables.ts';

/** One report of one step, read. */
export type EvidenceContent =
  | { readonly kind: 'tests'; readonly content: TestReport }
  | { readonly kind: 'findings'; readonly content: readonly Finding[] }
  | {
      readonly kind: 'differences';
      readonly content: { readonly files: readonly string[]; readonly with: number | null };
    };

export type EvidenceRow = EvidenceContent & { readonly step: string; readonly path: string };

/** Keeps a report. A step that is tried again brings its reports again: the newest of a path stands. */
export async function keepEvidence(
  db: Db,
  row: EvidenceRow & {
    readonly id: string;
    readonly projectId: string;
    readonly buildId: string;
    readonly at: Instant;
  },
): Promise<void> {
  await db.transaction(async (tx) => {
    await tx
      .delete(evidence)
      .where(
        and(
          eq(evidence.buildId, row.buildId),
          eq(evidence.step, row.step),
          eq(evidence.kind, row.kind),
          eq(evidence.path, row.path),
        ),
      );
    await tx.insert(evidence).values(row);
  });
}

/** The evidence of some builds, in the order it came. */
export async function evidenceOf(
  db: Db,
  buildIds: readonly string[],
): Promise<readonly (EvidenceRow & { readonly buildId: string })[]> {
  if (buildIds.length === 0) return [];
  const rows = await db
    .select()
    .from(evidence)
    .where(inArray(evidence.buildId, [...buildIds]))
    .orderBy(asc(evidence.id));
  // The content was written by keepEvidence with the kind that stands beside it.
  return rows.map((row) => row as unknown as EvidenceRow & { readonly buildId: string });
}

/** The reports of tests of the last builds of a ref up to one, newest first. */
export async function testRunsOf(
  db: Db,
  projectId: string,
  ref: string,
  most: number,
): Promise<readonly TestReport[]> {
  const rows = await db
    .select({ content: evidence.content })
    .from(evidence)
    .innerJoin(builds, eq(builds.id, evidence.buildId))
    .where(and(eq(evidence.projectId, projectId), eq(evidence.kind, 'tests'), eq(builds.ref, ref)))
    .orderBy(desc(evidence.id))
    .limit(most);
  return rows.map((row) => row.content as TestReport);
}
