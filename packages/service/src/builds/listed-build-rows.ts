import type { BuildState } from '@vaquero/core';
import { and, desc, eq, getTableColumns, inArray, lt, type SQL } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { artifacts, attemptSteps, attempts, builds } from '../database/tables.ts';
import { authorsOf } from '../people/authors.ts';
import type { BuildRecord } from './build-rows.ts';

/** A build with what a list says of it beside its own row; its recipe is no part of a list. */
export interface ListedBuild extends Omit<BuildRecord, 'recipe'> {
  readonly files: number | null;
  readonly bytes: number | null;
  readonly marks: readonly ('flaky' | 'warned')[];
  /** Who of this installation the author of its commit is. */
  readonly authorIs: { readonly name: string; readonly shownAs: string } | null;
}

export async function listBuilds(
  db: Db,
  projectId: string,
  before: number,
  limit: number,
): Promise<readonly ListedBuild[]> {
  return listWhere(db, and(eq(builds.projectId, projectId), lt(builds.number, before)), limit);
}

/** Builds of some kind, newest first. */
export async function listWhere(
  db: Db,
  which: SQL | undefined,
  limit: number,
): Promise<readonly ListedBuild[]> {
  const { recipe: _, ...columns } = getTableColumns(builds);
  const rows = await db
    .select({ build: columns, files: artifacts.files, bytes: artifacts.bytes })
    .from(builds)
    .leftJoin(
      artifacts,
      and(eq(artifacts.projectId, builds.projectId), eq(artifacts.digest, builds.artifact)),
    )
    .where(which)
    .orderBy(desc(builds.number))
    .limit(limit);
  const [marks, authors] = await Promise.all([
    marksOf(
      db,
      rows.map((row) => row.build.id),
    ),
    authorsOf(
      db,
      rows.map((row) => row.build.authorMail),
    ),
  ]);
  return rows.map(({ build, files, bytes }) => ({
    ...build,
    state: build.state as BuildState,
    files,
    bytes,
    marks: marks.get(build.id) ?? [],
    authorIs: authors(build.authorMail),
  }));
}

/** Which builds had steps that did not plainly pass, by their ids. */
export async function marksOf(
  db: Db,
  ids: readonly string[],
): Promise<ReadonlyMap<string, readonly ('flaky' | 'warned')[]>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .selectDistinct({ build: attempts.buildId, state: attemptSteps.state })
    .from(attempts)
    .innerJoin(attemptSteps, eq(attemptSteps.attemptId, attempts.id))
    .where(
      and(
        inArray(attempts.buildId, [...ids]),
        eq(attempts.state, 'passed'),
        inArray(attemptSteps.state, ['flaky', 'warned']),
      ),
    );
  const marks = new Map<string, ('flaky' | 'warned')[]>();
  for (const { build, state } of rows)
    if (state === 'flaky' || state === 'warned')
      marks.set(build, [...(marks.get(build) ?? []), state].sort());
  return marks;
}

/** The newest builds of a ref. */
export function listOfRef(
  db: Db,
  projectId: string,
  ref: string,
  most: number,
): Promise<readonly ListedBuild[]> {
  return listWhere(db, and(eq(builds.projectId, projectId), eq(builds.ref, ref)), most);
}
