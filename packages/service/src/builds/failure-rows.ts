import type { Instant } from '@vaquero/core';
import { and, desc, eq, ne } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import { attemptSteps, attempts, builds } from '../database/tables.ts';
import type { BuildRecord } from './build-rows.ts';

/** Newest builds of other refs in which the same step failed: then it is not this commit's fault alone. */
export async function failsElsewhere(
  deps: Deps,
  build: BuildRecord,
  step: string,
): Promise<readonly { build: number; ref: string; at: Instant }[]> {
  const rows = await deps.db
    .select({ build: builds.number, ref: builds.ref, at: builds.queuedAt })
    .from(builds)
    .innerJoin(attempts, eq(attempts.buildId, builds.id))
    .innerJoin(attemptSteps, eq(attemptSteps.attemptId, attempts.id))
    .where(
      and(
        eq(builds.projectId, build.projectId),
        eq(builds.state, 'failed'),
        ne(builds.ref, build.ref),
        // Outsiders’ code that fails alike says nothing of this commit.
        eq(builds.trust, 'trusted'),
        eq(attemptSteps.name, step),
        eq(attemptSteps.state, 'failed'),
      ),
    )
    .orderBy(desc(builds.number))
    .limit(3);
  return rows.map((row) => ({ ...row, at: row.at as Instant }));
}
