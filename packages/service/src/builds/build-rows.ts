import {
  type BuildState,
  type CommitId,
  type Digest,
  type Proposed,
  toolsOfRecipe,
} from '@vaquero/core';
import { and, asc, desc, eq, inArray, isNotNull, isNull, lt, or } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import { Impossible, refused } from '../base/refused.ts';
import type { PullRequestRow } from '../changes/pull-request-rows.ts';
import { beginsWith } from '../database/columns.ts';
import type { Db, Tx } from '../database/pool.ts';
import { artifacts, attempts, builds, deploys } from '../database/tables.ts';
import type { ProjectRow } from '../projects/project-rows.ts';

import { type ListedBuild, listWhere } from './listed-build-rows.ts';

/** What a build knows of the pull request that its commit belongs to; null when it belongs to none. */
export function proposedOf({ proposedInto, trust }: BuildRecord): Proposed | null {
  return proposedInto === null ? null : { into: proposedInto, trust };
}

/** The folder of its repository that a build is of, whatever the project has become since. */
export function folderOf(project: ProjectRow, { folder }: Pick<BuildRecord, 'folder'>): string {
  return folder ?? project.folder;
}

/** A row as a record. */
export function readBuild(row: typeof builds.$inferSelect): BuildRecord {
  // The column is written from BuildState values only.
  return { ...row, state: row.state as BuildState };
}

export async function buildByNumber(
  db: Db | Tx,
  projectId: string,
  number: number,
): Promise<BuildRecord | undefined> {
  if (!Number.isSafeInteger(number) || number < 1 || number > 2 ** 31 - 1) return undefined;
  const [row] = await db
    .select()
    .from(builds)
    .where(and(eq(builds.projectId, projectId), eq(builds.number, number)));
  return row === undefined ? undefined : readBuild(row);
}

/** The newest builds of the commit whose id begins with some hexadecimal digits. */
export async function buildsOfCommit(
  db: Db,
  projectId: string,
  hex: string,
): Promise<readonly BuildRecord[]> {
  const rows = await db
    .select()
    .from(builds)
    .where(and(eq(builds.projectId, projectId), beginsWith(builds.commitId, hex)))
    .orderBy(desc(builds.number))
    .limit(20);
  return rows.filter(({ commitId }) => commitId === rows[0]?.commitId).map(readBuild);
}

export async function buildById(db: Db | Tx, id: string): Promise<BuildRecord> {
  const [row] = await db.select().from(builds).where(eq(builds.id, id));
  if (row === undefined) throw new Impossible(`no build ${id}`);
  return readBuild(row);
}

export async function lockBuild(tx: Tx, id: string): Promise<BuildRecord> {
  const [row] = await tx.select().from(builds).where(eq(builds.id, id)).for('update');
  if (row === undefined) throw new Impossible(`no build ${id}`);
  return readBuild(row);
}

/** A build whose result answers for equal inputs: its artifact, or its evidence alone. */
export interface KnownBuild {
  readonly number: number;
  readonly artifact: Digest | null;
  readonly recipe: BuildRecord['recipe'];
}

/**
 * The newest passed build of equal inputs whose artifact, if it made one, is kept and whose tools are those that a
 * runner has now; null when there is none.
 */
export async function knownBuild(
  db: Db,
  projectId: string,
  inputKey: Digest,
): Promise<KnownBuild | null> {
  const [row] = await db
    .select({
      number: builds.number,
      artifact: artifacts.digest,
      recipe: builds.recipe,
      tools: attempts.tools,
    })
    .from(builds)
    .leftJoin(
      artifacts,
      and(eq(artifacts.projectId, builds.projectId), eq(artifacts.digest, builds.artifact)),
    )
    .innerJoin(attempts, and(eq(attempts.buildId, builds.id), eq(attempts.state, 'passed')))
    .where(
      and(
        eq(builds.projectId, projectId),
        eq(builds.inputKey, inputKey),
        eq(builds.state, 'passed'),
        or(isNull(builds.artifact), and(isNotNull(artifacts.digest), isNull(artifacts.goneAt))),
      ),
    )
    .orderBy(desc(builds.number))
    .limit(1);
  if (row === undefined) return null;
  const [newest] = await db
    .select({ tools: attempts.tools })
    .from(attempts)
    .orderBy(desc(attempts.id))
    .limit(1);
  // A runner knows more programs from build to build: those that this one used must be the same.
  const used = toolsOfRecipe(row.recipe?.recipe ?? { steps: [] }, row.tools ?? {});
  const now: Readonly<Record<string, string>> = newest?.tools ?? {};
  const isSame = Object.entries(used).every(([name, version]) => now[name] === version);
  const { number, recipe } = row;
  return isSame ? { number, artifact: row.artifact, recipe } : null;
}

/** A queued build, locked; undefined when somebody else holds it or it waits no more. */
export async function lockQueued(tx: Tx, id: string): Promise<BuildRecord | undefined> {
  const [row] = await tx
    .select()
    .from(builds)
    .where(and(eq(builds.id, id), eq(builds.state, 'queued')))
    .for('update', { skipLocked: true });
  return row === undefined ? undefined : readBuild(row);
}

export async function lastBuildOf(
  db: Db,
  projectId: string,
): Promise<{ number: number; state: string } | null> {
  const [row] = await db
    .select({ number: builds.number, state: builds.state })
    .from(builds)
    .where(eq(builds.projectId, projectId))
    .orderBy(desc(builds.number))
    .limit(1);
  return row ?? null;
}

/** The builds of a project that wait or run. */
export async function openBuildsOf(
  db: Db | Tx,
  projectId: string,
): Promise<readonly { readonly id: string; readonly number: number }[]> {
  return db
    .select({ id: builds.id, number: builds.number })
    .from(builds)
    .where(and(eq(builds.projectId, projectId), inArray(builds.state, ['queued', 'running'])))
    .orderBy(asc(builds.number));
}

/** How long the last twenty passed builds of a ref took, from start to end; all of the project's when the ref has none. */
export async function usualTimes(
  db: Db,
  projectId: string,
  ref: string | null,
  recipe = 'site',
): Promise<readonly number[]> {
  const rows = await db
    .select({ startedAt: builds.startedAt, endedAt: builds.endedAt })
    .from(builds)
    .where(
      and(
        eq(builds.projectId, projectId),
        eq(builds.state, 'passed'),
        eq(builds.recipeName, recipe),
        isNotNull(builds.startedAt),
        ...(ref === null ? [] : [eq(builds.ref, ref)]),
      ),
    )
    .orderBy(desc(builds.number))
    .limit(20);
  if (rows.length === 0 && ref !== null) return usualTimes(db, projectId, null, recipe);
  return rows.map((row) => (row.endedAt ?? 0) - (row.startedAt ?? 0));
}

/**
 * The newest good build of a ref before another one, one for the same environments before one that was given other
 * values; for the first of a pull request, that of what it would be merged into.
 */
export async function lastGoodBefore(db: Db, build: BuildRecord): Promise<BuildRecord | undefined> {
  const own = await lastGoodOf(db, build, build.ref);
  if (own !== undefined || build.proposedInto === null) return own;
  return lastGoodOf(db, build, `refs/heads/${build.proposedInto}`);
}

/** A commit is built for so many sets of values at most that the last one of each is among these. */
const mostSets = 16;

async function lastGoodOf(
  db: Db,
  build: BuildRecord,
  ref: string,
): Promise<BuildRecord | undefined> {
  const rows = await db
    .select({ id: builds.id, aim: builds.aim })
    .from(builds)
    .where(
      and(
        eq(builds.projectId, build.projectId),
        eq(builds.ref, ref),
        eq(builds.recipeName, build.recipeName),
        inArray(builds.state, ['passed', 'reused']),
        lt(builds.number, build.number),
      ),
    )
    .orderBy(desc(builds.number))
    .limit(mostSets);
  const rules = build.aim?.rules ?? [];
  const found = rows.find(({ aim }) => aim?.rules.some((rule) => rules.includes(rule))) ?? rows[0];
  return found === undefined ? undefined : buildById(db, found.id);
}

/** The build behind what an environment serves, for a deploy that moves the same artifact on. */
export async function buildOfDeploy(
  tx: Tx,
  deployId: string,
): Promise<{ buildId: string; build: number; commitId: CommitId }> {
  const [row] = await tx
    .select({ buildId: deploys.buildId, build: builds.number, commitId: deploys.commitId })
    .from(deploys)
    .innerJoin(builds, eq(builds.id, deploys.buildId))
    .where(eq(deploys.id, deployId));
  return row ?? refused({ code: 'not-found', what: 'deploy', name: deployId });
}

const mostBuilds = 10;

/** The newest builds of a pull request’s newest commit. */
export async function buildsOfHead(
  deps: Deps,
  project: ProjectRow,
  { head }: PullRequestRow,
): Promise<readonly ListedBuild[]> {
  if (head === null) return [];
  const which = and(eq(builds.projectId, project.id), eq(builds.commitId, head));
  return listWhere(deps.db, which, mostBuilds);
}

export type BuildRecord = Omit<typeof builds.$inferSelect, 'state'> & {
  readonly state: BuildState;
};
