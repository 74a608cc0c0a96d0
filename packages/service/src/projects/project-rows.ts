import { branchOf, type CommitId, type Instant, type RefName } from '@vaquero/core';
import { and, asc, eq, inArray, isNotNull, isNull, sql } from 'drizzle-orm';
import { Impossible, refused } from '../base/refused.ts';
import { madeOnce } from '../database/made-once.ts';
import type { Db, Tx } from '../database/pool.ts';
import { projects, refs, repositories } from '../database/tables.ts';

export type ProjectRow = typeof projects.$inferSelect;
export type RepositoryRow = typeof repositories.$inferSelect;

export async function projectByName(db: Db | Tx, name: string): Promise<ProjectRow | undefined> {
  const [row] = await byName(db).execute({ name });
  return row;
}

const byName = madeOnce((db) =>
  db
    .select()
    .from(projects)
    .where(eq(projects.name, sql.placeholder('name')))
    .prepare(),
);

export async function projectById(db: Db | Tx, id: string): Promise<ProjectRow> {
  const [row] = await byId(db).execute({ id });
  if (row === undefined) throw new Impossible(`no project ${id}`);
  return row;
}

const byId = madeOnce((db) =>
  db
    .select()
    .from(projects)
    .where(eq(projects.id, sql.placeholder('id')))
    .prepare(),
);

/** Those of some names that projects have. */
export async function projectsNamed(
  db: Db | Tx,
  names: readonly string[],
): Promise<readonly string[]> {
  if (names.length === 0) return [];
  const rows = await db
    .select({ name: projects.name })
    .from(projects)
    .where(inArray(projects.name, [...names]));
  return rows.map(({ name }) => name);
}

export async function allProjects(db: Db | Tx): Promise<readonly ProjectRow[]> {
  return db.select().from(projects).orderBy(asc(projects.name));
}

export async function projectsOf(
  db: Db | Tx,
  repositoryId: string,
): Promise<readonly ProjectRow[]> {
  return db
    .select()
    .from(projects)
    .where(eq(projects.repositoryId, repositoryId))
    .orderBy(asc(projects.id));
}

/** Those of a repository's projects that have not ended. */
export async function livingProjectsOf(
  db: Db | Tx,
  repositoryId: string,
): Promise<readonly ProjectRow[]> {
  return (await projectsOf(db, repositoryId)).filter(({ endedAt }) => endedAt === null);
}

/** Every project that has not ended, by name. */
export async function livingProjects(db: Db | Tx): Promise<readonly ProjectRow[]> {
  return (await allProjects(db)).filter(({ endedAt }) => endedAt === null);
}

export async function setName(tx: Tx, id: string, name: string): Promise<void> {
  await tx.update(projects).set({ name }).where(eq(projects.id, id));
}

export async function setEnded(tx: Tx, id: string, at: Instant): Promise<void> {
  await tx.update(projects).set({ endedAt: at }).where(eq(projects.id, id));
}

export async function repositoryById(db: Db | Tx, id: string): Promise<RepositoryRow> {
  const [row] = await db.select().from(repositories).where(eq(repositories.id, id));
  if (row === undefined) throw new Impossible(`no repository ${id}`);
  return row;
}

/** The project whose roles say who pushes to the repository of a project. */
export async function homeOf(db: Db | Tx, { repositoryId }: ProjectRow): Promise<ProjectRow> {
  return projectById(db, (await repositoryById(db, repositoryId)).homeId);
}

export async function lockRepository(tx: Tx, id: string): Promise<RepositoryRow> {
  const [row] = await tx.select().from(repositories).where(eq(repositories.id, id)).for('update');
  if (row === undefined) throw new Impossible(`no repository ${id}`);
  return row;
}

/** Says where a locked repository is read from. Whoever looks at it meanwhile writes nothing, as after another look. */
export async function setPlace(
  tx: Tx,
  { id, look }: RepositoryRow,
  now: Pick<RepositoryRow, 'kind' | 'place'>,
): Promise<void> {
  await tx
    .update(repositories)
    .set({ ...now, look: look + 1, trouble: null })
    .where(eq(repositories.id, id));
}

/** Every repository that something is built from. */
export async function allRepositories(db: Db): Promise<readonly RepositoryRow[]> {
  const used = db
    .select({ id: projects.repositoryId })
    .from(projects)
    .where(isNull(projects.endedAt));
  return db.select().from(repositories).where(inArray(repositories.id, used));
}

/** Writes a project down, and its repository where that is one of its own. */
export async function insertProject(
  tx: Tx,
  project: ProjectRow,
  /** Null where it is that of another project. */
  repository: RepositoryRow | null,
): Promise<void> {
  if (repository !== null) await tx.insert(repositories).values(repository);
  await tx.insert(projects).values(project);
}

/** The number of a repository's next pull request; its row is locked from then on. */
export async function nextPullRequest(tx: Tx, repositoryId: string): Promise<number> {
  const [head] = await tx
    .update(repositories)
    .set({ lastPullRequest: sql`last_insert_id(${repositories.lastPullRequest} + 1)` })
    .where(eq(repositories.id, repositoryId));
  return head.insertId;
}

export async function refsKnown(
  db: Db | Tx,
  repositoryId: string,
): Promise<ReadonlyMap<RefName, CommitId>> {
  const rows = await db.select().from(refs).where(eq(refs.repositoryId, repositoryId));
  // Written only from what `refsOf` read, so the brands hold.
  return new Map(rows.map((row) => [row.name as RefName, row.commitId]));
}

/** The names of the branches among refs. */
export function branchesAmong(refs: ReadonlyMap<RefName, CommitId>): readonly string[] {
  return [...refs.keys()].flatMap((ref) => branchOf(ref) ?? []);
}

export async function setRef(
  tx: Tx,
  repositoryId: string,
  name: RefName,
  commitId: CommitId | null,
): Promise<void> {
  if (commitId === null)
    await tx.delete(refs).where(and(eq(refs.repositoryId, repositoryId), eq(refs.name, name)));
  else
    await tx
      .insert(refs)
      .values({ repositoryId, name, commitId })
      .onDuplicateKeyUpdate({ set: { commitId } });
}

/** Notes a finished look; `look` must already be locked at its old number. */
export async function noteLook(
  tx: Tx,
  repositoryId: string,
  look: number,
  at: Instant,
): Promise<void> {
  await tx
    .update(repositories)
    .set({ look, lookedAt: at, trouble: null })
    .where(eq(repositories.id, repositoryId));
}

export async function noteTrouble(db: Db, repositoryId: string, trouble: string): Promise<void> {
  await db
    .update(repositories)
    .set({ trouble: trouble.slice(0, 1000) })
    .where(eq(repositories.id, repositoryId));
}

/** Has a project built from another branch or folder, in the transaction that locks it. */
export async function setSource(
  tx: Tx,
  id: string,
  { branch, folder }: Pick<ProjectRow, 'branch' | 'folder'>,
): Promise<void> {
  await tx.update(projects).set({ branch, folder }).where(eq(projects.id, id));
}

/** Names the version of a project's map that is in force, in the transaction that locks the project. */
export async function setMapVersion(tx: Tx, id: string, mapVersion: number): Promise<void> {
  await tx.update(projects).set({ mapVersion }).where(eq(projects.id, id));
}

/** Locks a project's row, and returns it as it is now. */
export async function lockedProject(tx: Tx, id: string): Promise<ProjectRow> {
  const [row] = await tx.select().from(projects).where(eq(projects.id, id)).for('update');
  if (row === undefined) throw new Impossible(`no project ${id}`);
  return row;
}

/**
 * Locks a project that something is to be changed of, so that its map and its end wait. Refuses (project-ended) where
 * somebody has ended it since the call began.
 */
export async function lockProject(tx: Tx, id: string): Promise<void> {
  requireLiving(await lockedProject(tx, id));
}

function requireLiving({ name, endedAt }: Pick<ProjectRow, 'name' | 'endedAt'>): void {
  if (endedAt !== null) refused({ code: 'project-ended', name, at: endedAt });
}

/** The next build number of a project, taken under the project's row lock. Refuses: project-ended. */
export async function nextBuildNumber(tx: Tx, projectId: string): Promise<number> {
  await tx
    .update(projects)
    .set({ lastBuild: sql`${projects.lastBuild} + 1` })
    .where(eq(projects.id, projectId));
  const [row] = await tx
    .select({ name: projects.name, endedAt: projects.endedAt, lastBuild: projects.lastBuild })
    .from(projects)
    .where(eq(projects.id, projectId));
  if (row === undefined) throw new Impossible(`no project ${projectId}`);
  requireLiving(row);
  return row.lastBuild;
}

/** Projects that have what stops a build beside their map, as it was up to 0.13. */
export async function projectsWithStops(db: Db): Promise<readonly string[]> {
  const rows = await db
    .select({ id: projects.id })
    .from(projects)
    .where(isNotNull(projects.holding));
  return rows.map(({ id }) => id);
}

/** What stops a build stands in the map from now on. */
export async function forgetStops(tx: Tx, projectId: string): Promise<void> {
  await tx.update(projects).set({ holding: null }).where(eq(projects.id, projectId));
}
