import type { BuildFailure, CommitId, Digest, Instant } from '@vaquero/core';
import { and, eq, exists, inArray, isNotNull, isNull, lt, ne, not, sql } from 'drizzle-orm';
import type { Tx } from '../database/pool.ts';
import { builds, environments, intakes } from '../database/tables.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import type { BuildRecord } from './build-rows.ts';

/** Before a project gets another folder: its builds up to now are of the one that it had. */
export async function keepFolderOfBuilds(tx: Tx, { id, folder }: ProjectRow): Promise<void> {
  await tx
    .update(builds)
    .set({ folder })
    .where(and(eq(builds.projectId, id), isNull(builds.folder)));
}

/** Ends a build in a state, from running or queued only; false when somebody else ended it. */
export async function endBuild(
  tx: Tx,
  id: string,
  end: {
    state: 'passed' | 'failed' | 'cancelled';
    artifact?: Digest | null;
    /** The recipe as it turned out, where that differs from how it was queued. */
    recipe?: BuildRecord['recipe'];
    failure?: BuildFailure;
    at: Instant;
  },
): Promise<boolean> {
  const [done] = await tx
    .update(builds)
    .set({
      state: end.state,
      endedAt: end.at,
      artifact: end.artifact ?? null,
      failure: end.failure ?? null,
      ...(end.recipe == null ? {} : { recipe: end.recipe }),
    })
    .where(and(eq(builds.id, id), sql`${builds.state} in ('queued', 'running')`));
  return done.affectedRows === 1;
}

/** Writes a build down. */
export async function insertBuild(tx: Tx, row: typeof builds.$inferInsert): Promise<void> {
  await tx.insert(builds).values(row);
}

/** Sets columns of a build that its caller has locked. */
export async function setBuild(
  tx: Tx,
  id: string,
  columns: Partial<Omit<typeof builds.$inferInsert, 'id' | 'projectId' | 'number'>>,
): Promise<void> {
  await tx.update(builds).set(columns).where(eq(builds.id, id));
}

/** Has a build that runs wait again. */
export async function requeueBuild(tx: Tx, id: string): Promise<void> {
  await tx
    .update(builds)
    .set({ state: 'queued', startedAt: null })
    .where(and(eq(builds.id, id), eq(builds.state, 'running')));
}

/**
 * The open builds of a ref and a recipe before a number that looks have begun, of other commits, locked; those that the
 * first environment waits for are none of them.
 */
export function lockOlder(
  tx: Tx,
  projectId: string,
  of: {
    readonly ref: string;
    readonly recipe: string;
    readonly before: number;
    readonly but: CommitId;
  },
) {
  const forTop = tx
    .select({ one: intakes.intake })
    .from(intakes)
    .innerJoin(environments, eq(environments.id, intakes.environmentId))
    .where(and(eq(intakes.buildId, builds.id), eq(environments.place, 0)));
  return tx
    .select({ id: builds.id, number: builds.number, commit: builds.commitId, aim: builds.aim })
    .from(builds)
    .where(
      and(
        eq(builds.projectId, projectId),
        eq(builds.ref, of.ref),
        eq(builds.recipeName, of.recipe),
        lt(builds.number, of.before),
        inArray(builds.state, ['queued', 'running']),
        isNotNull(builds.changeId),
        ne(builds.commitId, of.but),
        not(exists(forTop)),
      ),
    )
    .for('update');
}
