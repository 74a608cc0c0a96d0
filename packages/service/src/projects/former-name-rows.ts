import type { Instant } from '@vaquero/core';
import { and, asc, desc, eq, gt, isNull } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { formerNames, projects } from '../database/tables.ts';
import type { ProjectRow } from './project-rows.ts';

/** How long what is called otherwise is found by its former name. */
export const formerlyMs = 30 * 86_400_000;

/** A name that something had until `at`. */
export interface FormerName {
  readonly projectId: string;
  readonly environmentId: string | null;
  readonly name: string;
  readonly at: number;
}

export async function insertFormerName(
  tx: Tx,
  row: FormerName & { readonly id: string; readonly at: Instant },
): Promise<void> {
  await tx.insert(formerNames).values(row);
}

/** The project that had a name lately, the last one if there were several. Whether one has it now is not asked here. */
export async function projectFormerly(
  db: Db | Tx,
  name: string,
  now: Instant,
): Promise<ProjectRow | undefined> {
  const [row] = await db
    .select({ project: projects })
    .from(formerNames)
    .innerJoin(projects, eq(projects.id, formerNames.projectId))
    .where(
      and(
        eq(formerNames.name, name),
        isNull(formerNames.environmentId),
        gt(formerNames.at, now - formerlyMs),
      ),
    )
    .orderBy(desc(formerNames.at))
    .limit(1);
  return row?.project;
}

/** All that was called otherwise lately, in the order in which that ended. */
export async function formerNamesLately(db: Db, now: Instant): Promise<readonly FormerName[]> {
  return db
    .select()
    .from(formerNames)
    .where(gt(formerNames.at, now - formerlyMs))
    .orderBy(asc(formerNames.at));
}
