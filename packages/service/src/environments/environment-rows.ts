import type { Digest, EnvironmentNow, Instant, LedgerEntry, RollbackTarget } from '@vaquero/core';
import { and, asc, count, desc, eq, gte, isNull, lt, type SQL, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import { madeOnce } from '../database/made-once.ts';
import type { Db, Tx } from '../database/pool.ts';
import {
  artifacts,
  builds,
  deploys,
  environments,
  holds,
  people,
  projects,
  routingEntries,
} from '../database/tables.ts';
import { atEnd } from '../database/transaction.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { Impossible } from '../refused.ts';

export type EnvironmentRow = typeof environments.$inferSelect;
export type DeployRow = typeof deploys.$inferSelect;

export async function environmentsOf(
  db: Db | Tx,
  projectId: string,
): Promise<readonly EnvironmentRow[]> {
  return db
    .select()
    .from(environments)
    .where(and(eq(environments.projectId, projectId), eq(environments.living, true)))
    .orderBy(asc(environments.place));
}

export async function environmentByName(
  db: Db | Tx,
  projectId: string,
  name: string,
): Promise<EnvironmentRow | undefined> {
  const [row] = await livingByName(db).execute({ projectId, name });
  return row;
}

const livingByName = madeOnce((db) =>
  db
    .select()
    .from(environments)
    .where(
      and(
        eq(environments.projectId, sql.placeholder('projectId')),
        eq(environments.name, sql.placeholder('name')),
        eq(environments.living, true),
      ),
    )
    .prepare(),
);

/** A project and an environment of it by their names, in one round trip; the environment is null where it has none of that name. */
export async function environmentOfProject(
  db: Db,
  names: { readonly project: string; readonly environment: string },
): Promise<{ project: ProjectRow; environment: EnvironmentRow | null } | undefined> {
  const [row] = await ofProject(db).execute(names);
  return row;
}

const ofProject = madeOnce((db) =>
  db
    .select({ project: projects, environment: environments })
    .from(projects)
    .leftJoin(
      environments,
      and(
        eq(environments.projectId, projects.id),
        eq(environments.name, sql.placeholder('environment')),
        eq(environments.living, true),
      ),
    )
    .where(eq(projects.name, sql.placeholder('project')))
    .prepare(),
);

/** Locks environments in the order of their ids, so that two moves never wait for each other. */
export async function lockEnvironments(
  tx: Tx,
  ids: readonly string[],
): Promise<ReadonlyMap<string, EnvironmentRow>> {
  const locked = new Map<string, EnvironmentRow>();
  for (const id of [...ids].sort()) {
    const [row] = await forUpdate(tx).execute({ id });
    if (row === undefined) throw new Impossible(`no environment ${id}`);
    locked.set(id, row);
  }
  return locked;
}

const forUpdate = madeOnce((db) =>
  db
    .select()
    .from(environments)
    .where(eq(environments.id, sql.placeholder('id')))
    .for('update')
    .prepare(),
);

/** A deploy with what people see beside it. */
export interface DeployView extends DeployRow {
  readonly build: number;
  readonly subject: string;
  readonly by: string;
  readonly builtInMs: number | null;
  readonly kept: boolean;
}

/** An environment's ledger, oldest first. `fromNumber` leaves out what is older. */
export async function ledgerOf(
  db: Db | Tx,
  environmentId: string,
  fromNumber = 0,
): Promise<readonly DeployView[]> {
  const rows = await selectDeploys(db)
    .where(and(eq(deploys.environmentId, environmentId), gte(deploys.number, fromNumber)))
    .orderBy(asc(deploys.number));
  return rows.map(readDeploy);
}

/** A ledger entry as core decides with it, and the build that a deploy of it again would name. */
export interface LedgerRow extends LedgerEntry {
  readonly buildId: string;
  readonly commitId: string;
}

/**
 * An environment's ledger as core decides a rollback with it, oldest first; nothing that only people read.
 * With a wish, only the newest entry that it names: a ledger of years need not be read for it.
 */
export async function decisionLedger(
  db: Db | Tx,
  { id, projectId }: Pick<EnvironmentRow, 'id' | 'projectId'>,
  wish: RollbackTarget | null,
): Promise<readonly LedgerRow[]> {
  const rows =
    wish === null
      ? await wholeLedger(db).execute({ id })
      : 'deploy' in wish
        ? await newestByDeploy(db).execute({ id, wish: wish.deploy })
        : await newestByBuild(db).execute({ id, projectId, wish: wish.build });
  return rows.toReversed().map(({ first, last, goneAt, ...row }) => ({
    ...row,
    artifact: row.artifact as Digest,
    committedAt: row.committedAt as Instant,
    undoes: first === null || last === null ? null : { first, last },
    kept: goneAt === null,
  }));
}

const wholeLedger = madeOnce((db) => selectLedger(db, undefined).prepare());
const newestByDeploy = madeOnce((db) =>
  selectLedger(db, eq(deploys.number, sql.placeholder('wish')))
    .limit(1)
    .prepare(),
);
const newestByBuild = madeOnce((db) =>
  selectLedger(
    db,
    and(
      // The build's whole key: by its number alone every deploy of the installation would be read.
      eq(builds.projectId, sql.placeholder('projectId')),
      eq(builds.number, sql.placeholder('wish')),
    ),
  )
    .limit(1)
    .prepare(),
);

function selectLedger(db: Db | Tx, named: SQL | undefined) {
  return db
    .select({
      number: deploys.number,
      kind: deploys.kind,
      artifact: deploys.artifact,
      build: builds.number,
      buildId: deploys.buildId,
      commitId: deploys.commitId,
      committedAt: deploys.committedAt,
      first: deploys.undoesFirst,
      last: deploys.undoesLast,
      goneAt: artifacts.goneAt,
    })
    .from(deploys)
    .innerJoin(builds, eq(builds.id, deploys.buildId))
    .innerJoin(
      artifacts,
      and(eq(artifacts.projectId, builds.projectId), eq(artifacts.digest, deploys.artifact)),
    )
    .where(and(eq(deploys.environmentId, sql.placeholder('id')), named))
    .orderBy(desc(deploys.number));
}

/** One page of a ledger, newest first. */
export async function ledgerPage(
  db: Db,
  environmentId: string,
  before: number,
  limit: number,
): Promise<readonly DeployView[]> {
  const rows = await selectDeploys(db)
    .where(and(eq(deploys.environmentId, environmentId), lt(deploys.number, before)))
    .orderBy(desc(deploys.number))
    .limit(limit);
  return rows.map(readDeploy);
}

/** The first deploy number that was still live at an instant or came after it. */
export async function firstLiveSince(db: Db, environmentId: string, at: Instant): Promise<number> {
  const [row] = await db
    .select({ number: deploys.number })
    .from(deploys)
    .where(and(eq(deploys.environmentId, environmentId), lt(deploys.committedAt, at)))
    .orderBy(desc(deploys.committedAt), desc(deploys.number))
    .limit(1);
  return row?.number ?? 0;
}

export async function deployCount(db: Db, environmentId: string): Promise<number> {
  const [row] = await db
    .select({ total: count() })
    .from(deploys)
    .where(eq(deploys.environmentId, environmentId));
  return row?.total ?? 0;
}

export async function deployById(db: Db | Tx, id: string): Promise<DeployView> {
  const [row] = await oneDeploy(db).execute({ id });
  if (row === undefined) throw new Impossible(`no deploy ${id}`);
  return readDeploy(row);
}

const oneDeploy = madeOnce((db) =>
  selectDeploys(db)
    .where(eq(deploys.id, sql.placeholder('id')))
    .prepare(),
);

function selectDeploys(db: Db | Tx) {
  return db
    .select({
      deploy: deploys,
      build: builds.number,
      subject: builds.subject,
      by: people.shownAs,
      startedAt: builds.startedAt,
      endedAt: builds.endedAt,
      goneAt: artifacts.goneAt,
    })
    .from(deploys)
    .innerJoin(builds, eq(builds.id, deploys.buildId))
    .innerJoin(
      artifacts,
      and(eq(artifacts.projectId, builds.projectId), eq(artifacts.digest, deploys.artifact)),
    )
    .leftJoin(people, eq(people.id, deploys.actorId))
    .$dynamic();
}

function readDeploy(row: {
  deploy: DeployRow;
  build: number;
  subject: string;
  by: string | null;
  startedAt: number | null;
  endedAt: number | null;
  goneAt: number | null;
}): DeployView {
  return {
    ...row.deploy,
    build: row.build,
    subject: row.subject,
    by: row.by ?? 'Vaquero',
    builtInMs: row.startedAt === null || row.endedAt === null ? null : row.endedAt - row.startedAt,
    kept: row.goneAt === null,
  };
}

/** A ledger row as core decides with it. */
export function entryOf(deploy: DeployView): LedgerEntry {
  return {
    number: deploy.number,
    kind: deploy.kind,
    artifact: deploy.artifact as Digest,
    build: deploy.build,
    committedAt: deploy.committedAt as Instant,
    undoes:
      deploy.undoesFirst === null || deploy.undoesLast === null
        ? null
        : { first: deploy.undoesFirst, last: deploy.undoesLast },
    kept: deploy.kept,
  };
}

/** An environment as core decides with it; one round trip, since every move reads it. */
export async function environmentNow(db: Db | Tx, row: EnvironmentRow): Promise<EnvironmentNow> {
  const [found] = await nowOf(db).execute({ id: row.id, serves: row.servesDeployId ?? '' });
  if (found === undefined) throw new Impossible(`no environment ${row.id}`);
  const { serves, build, by, since, reason, holder } = found;
  return {
    name: row.name,
    generation: row.generation,
    serves:
      serves === null || build === null
        ? null
        : {
            deploy: serves.number,
            artifact: serves.artifact as Digest,
            build,
            intake: serves.intake,
            by: by ?? 'Vaquero',
            at: serves.committedAt as Instant,
          },
    hold:
      since === null || reason === null
        ? null
        : { by: holder ?? 'Vaquero', since: since as Instant, reason },
  };
}

const holders = alias(people, 'holders');
const nowOf = madeOnce((db) =>
  db
    .select({
      serves: deploys,
      build: builds.number,
      by: people.shownAs,
      since: holds.since,
      reason: holds.reason,
      holder: holders.shownAs,
    })
    .from(environments)
    .leftJoin(deploys, eq(deploys.id, sql.placeholder('serves')))
    .leftJoin(builds, eq(builds.id, deploys.buildId))
    .leftJoin(people, eq(people.id, deploys.actorId))
    .leftJoin(holds, and(eq(holds.environmentId, environments.id), eq(holds.standing, true)))
    .leftJoin(holders, eq(holders.id, holds.personId))
    .where(eq(environments.id, sql.placeholder('id')))
    .prepare(),
);

/** Moves a locked environment's pointer to its next deploy when its transaction commits. Returns the deploy's number. */
export function movePointer(
  tx: Tx,
  row: EnvironmentRow,
  deploy: { readonly id: string; readonly artifact: string },
): number {
  const number = row.lastDeploy + 1;
  const targets = [{ artifact: deploy.artifact, share: 100 }];
  atEnd(
    tx,
    tx
      .update(environments)
      .set({ servesDeployId: deploy.id, lastDeploy: number, generation: row.generation + 1 })
      .where(eq(environments.id, row.id)),
    tx
      .insert(routingEntries)
      .values({ environmentId: row.id, targets, deployId: deploy.id })
      .onDuplicateKeyUpdate({ set: { targets, deployId: deploy.id } }),
  );
  return number;
}

/** Writes a deploy, at the position that its log entry took, when its transaction commits. */
export function insertDeploy(tx: Tx, deploy: Omit<DeployRow, 'confirmedAt'>): void {
  atEnd(tx, tx.insert(deploys).values(deploy));
}

/** Marks every deploy up to a position as confirmed at an instant; returns how many were not yet. */
export async function confirmUpTo(db: Db, position: number, at: Instant): Promise<number> {
  const [done] = await db
    .update(deploys)
    .set({ confirmedAt: at })
    .where(and(isNull(deploys.confirmedAt), sql`${deploys.position} between 1 and ${position}`));
  return done.affectedRows;
}

export async function raiseGeneration(tx: Tx, row: EnvironmentRow): Promise<void> {
  await tx
    .update(environments)
    .set({ generation: row.generation + 1 })
    .where(eq(environments.id, row.id));
}
