import type { Finding, Instant, TestReport, TestRun } from '@vaquero/core';
import { and, asc, desc, eq } from 'drizzle-orm';
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

/** Keeps a report. A step that is tried again brings its reports again: all are kept, the newest is shown. */
export async function keepEvidence(
  db: Db,
  row: EvidenceRow & {
    readonly id: string;
    readonly projectId: string;
    readonly buildId: string;
    readonly at: Instant;
  },
): Promise<void> {
  await db.insert(evidence).values(row);
}

/** The evidence of a build in the order it came; of several tries of a step, the last one's. */
export async function evidenceOf(db: Db, buildId: string): Promise<readonly EvidenceRow[]> {
  const rows = await db
    .select()
    .from(evidence)
    .where(eq(evidence.buildId, buildId))
    .orderBy(asc(evidence.id));
  // The content was written by keepEvidence with the kind that stands beside it.
  const newest = new Map(rows.map((row) => [`${row.kind} ${row.step} ${row.path}`, row]));
  return [...newest.values()].map((row) => row as unknown as EvidenceRow);
}

/** The reports of tests of the last builds of a ref up to one, newest first. */
export async function testRunsOf(
  db: Db,
  of: { readonly projectId: string; readonly ref: string; readonly recipeName: string },
  most: number,
): Promise<readonly TestRun[]> {
  const rows = await db
    .select({ commit: builds.commitId, content: evidence.content })
    .from(evidence)
    .innerJoin(builds, eq(builds.id, evidence.buildId))
    .where(
      and(
        eq(evidence.projectId, of.projectId),
        eq(evidence.kind, 'tests'),
        eq(builds.ref, of.ref),
        eq(builds.recipeName, of.recipeName),
      ),
    )
    .orderBy(desc(evidence.id))
    .limit(most);
  return rows.map((row) => ({ commit: row.commit, report: row.content as TestReport }));
}
