import {
  type CommitId,
  type Digest,
  type EnvironmentNow,
  findWayBack,
  type Instant,
  type LedgerEntry,
  type RollbackTarget,
  type ServedBefore,
  undoneNumbers,
} from '@vaquero/core';
import { and, asc, desc, eq, gte, inArray, isNull, lt, type SQL, sql } from 'drizzle-orm';
import { Impossible } from '../base/refused.ts';
import { madeOnce } from '../database/made-once.ts';
import type { Db, Tx } from '../database/pool.ts';
import { artifacts, builds, deploys, people } from '../database/tables.ts';
import { onCommit } from '../database/transaction.ts';
import type { EnvironmentRow } from './environment-rows.ts';

export type DeployRow = typeof deploys.$inferSelect;

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
  readonly commitId: CommitId;
}

/**
 * As much of an environment's ledger as tells a way back, oldest first; nothing that only people read. With a wish,
 * only the newest entry that it names. Without one the newest entries, down to the first that is a way back: what has
 * undone an entry stands behind it, so nothing older has a say, and a ledger of years is not read.
 */
export async function decisionLedger(
  db: Db | Tx,
  { id, projectId }: Pick<EnvironmentRow, 'id' | 'projectId'>,
  wish: RollbackTarget | null,
  now: EnvironmentNow | Promise<EnvironmentNow>,
): Promise<readonly LedgerRow[]> {
  if (wish !== null) {
    const rows =
      'deploy' in wish
        ? await newestByDeploy(db).execute({ id, wish: wish.deploy })
        : await newestByBuild(db).execute({ id, projectId, wish: wish.build });
    return rows.map(readLedgerRow);
  }
  const environment = await now;
  let ledger: readonly LedgerRow[] = [];
  for (let most = firstPage; ; most *= 4) {
    const below = ledger[0]?.number ?? Number.MAX_SAFE_INTEGER;
    const rows = await pageBelow(db).execute({ id, below, most });
    ledger = [...rows.toReversed().map(readLedgerRow), ...ledger];
    if (rows.length < most || findWayBack(environment, ledger, null).ok) return ledger;
  }
}

/** A way back is mostly the deploy before this one. */
const firstPage = 10;

function readLedgerRow({
  first,
  last,
  goneAt,
  build,
  ...row
}: Awaited<ReturnType<typeof selectLedger>>[number]): LedgerRow {
  return {
    ...row,
    build: ofIts(build),
    artifact: row.artifact,
    committedAt: row.committedAt as Instant,
    undoes: first === null || last === null ? null : { first, last },
    kept: goneAt === null,
  };
}

const pageBelow = madeOnce((db) =>
  selectLedger(db, lt(deploys.number, sql.placeholder('below')))
    .limit(sql.placeholder('most'))
    .prepare(),
);
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
  return (
    db
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
      // Outer joins keep the order in which the server reads: a page of the ledger first, then what belongs to it.
      .leftJoin(builds, eq(builds.id, deploys.buildId))
      .leftJoin(
        artifacts,
        and(eq(artifacts.projectId, builds.projectId), eq(artifacts.digest, deploys.artifact)),
      )
      .where(and(eq(deploys.environmentId, sql.placeholder('id')), named))
      .orderBy(desc(deploys.number))
  );
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

/** What rollbacks have undone from a number on, as spans of numbers. */
export async function undoneSpans(
  db: Db | Tx,
  environmentId: string,
  from: number,
): Promise<readonly Pick<LedgerEntry, 'undoes'>[]> {
  const rows = await db
    .select({ first: deploys.undoesFirst, last: deploys.undoesLast })
    .from(deploys)
    .where(and(eq(deploys.environmentId, environmentId), gte(deploys.undoesLast, from)));
  return rows.map(({ first, last }) => ({
    undoes: first === null || last === null ? null : { first: Math.max(first, from), last },
  }));
}

/** An environment's newest deploy of an artifact: whether it was undone there, and whether its bytes are kept. */
export async function servedBefore(
  db: Db | Tx,
  { id, projectId }: Pick<EnvironmentRow, 'id' | 'projectId'>,
  artifact: Digest,
): Promise<(ServedBefore & { readonly id: string }) | null> {
  const [row] = await db
    .select({
      id: deploys.id,
      deploy: deploys.number,
      build: builds.number,
      goneAt: artifacts.goneAt,
    })
    .from(deploys)
    .leftJoin(builds, eq(builds.id, deploys.buildId))
    .leftJoin(
      artifacts,
      and(eq(artifacts.projectId, projectId), eq(artifacts.digest, deploys.artifact)),
    )
    .where(and(eq(deploys.environmentId, id), eq(deploys.artifact, artifact)))
    .orderBy(desc(deploys.number))
    .limit(1);
  if (row === undefined) return null;
  const undone = undoneNumbers(await undoneSpans(db, id, row.deploy)).has(row.deploy);
  return {
    id: row.id,
    deploy: row.deploy,
    build: ofIts(row.build),
    undone,
    kept: row.goneAt === null,
  };
}

/** The deploy that a call with an idempotency key made. */
export async function deployOfCall(
  db: Db,
  { actorId, key }: { readonly actorId: string; readonly key: string },
): Promise<Pick<DeployRow, 'id' | 'call' | 'previousDeployId'> | undefined> {
  const [row] = await db
    .select({ id: deploys.id, call: deploys.call, previousDeployId: deploys.previousDeployId })
    .from(deploys)
    .where(and(eq(deploys.actorId, actorId), eq(deploys.callKey, key)));
  return row;
}

/** A deploy of an environment by its number. */
export async function deployByNumber(
  db: Db,
  environmentId: string,
  number: number,
): Promise<DeployView | undefined> {
  const [row] = await selectDeploys(db).where(
    and(eq(deploys.environmentId, environmentId), eq(deploys.number, number)),
  );
  return row === undefined ? undefined : readDeploy(row);
}

export async function deployById(db: Db | Tx, id: string): Promise<DeployView> {
  const [row] = await oneDeploy(db).execute({ id });
  if (row === undefined) throw new Impossible(`no deploy ${id}`);
  return readDeploy(row);
}

/** What many environments serve, in one question; by id. */
export async function deploysById(
  db: Db | Tx,
  ids: readonly string[],
): Promise<ReadonlyMap<string, DeployView>> {
  if (ids.length === 0) return new Map();
  const rows = await selectDeploys(db).where(inArray(deploys.id, [...ids]));
  return new Map(rows.map((row) => [row.deploy.id, readDeploy(row)]));
}

const oneDeploy = madeOnce((db) =>
  selectDeploys(db)
    .where(eq(deploys.id, sql.placeholder('id')))
    .prepare(),
);

function selectDeploys(db: Db | Tx) {
  return (
    db
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
      // Outer joins keep the order in which the server reads: a page of the ledger first, then what belongs to it.
      .leftJoin(builds, eq(builds.id, deploys.buildId))
      .leftJoin(
        artifacts,
        and(eq(artifacts.projectId, builds.projectId), eq(artifacts.digest, deploys.artifact)),
      )
      .leftJoin(people, eq(people.id, deploys.actorId))
      .$dynamic()
  );
}

function readDeploy(row: {
  deploy: DeployRow;
  build: number | null;
  subject: string | null;
  by: string | null;
  startedAt: number | null;
  endedAt: number | null;
  goneAt: number | null;
}): DeployView {
  return {
    ...row.deploy,
    build: ofIts(row.build),
    subject: ofIts(row.subject),
    by: row.by ?? 'Vaquero',
    builtInMs: row.startedAt === null || row.endedAt === null ? null : row.endedAt - row.startedAt,
    kept: row.goneAt === null,
  };
}

/** What stands in the build's row of a deploy, which every deploy has. */
function ofIts<T>(value: T | null): T {
  if (value === null) throw new Impossible('a deploy without its build');
  return value;
}

/** A ledger row as core decides with it. */
export function entryOf(deploy: DeployView): LedgerEntry {
  return {
    number: deploy.number,
    kind: deploy.kind,
    artifact: deploy.artifact,
    build: deploy.build,
    committedAt: deploy.committedAt as Instant,
    undoes:
      deploy.undoesFirst === null || deploy.undoesLast === null
        ? null
        : { first: deploy.undoesFirst, last: deploy.undoesLast },
    kept: deploy.kept,
  };
}

/** Writes a deploy, at the position that its log entry took, when its transaction commits. */
export function deployOnCommit(tx: Tx, deploy: () => Omit<DeployRow, 'confirmedAt'>): void {
  onCommit(tx, () => tx.insert(deploys).values(deploy()));
}

/** Marks every deploy up to a position as confirmed at an instant; returns how many were not yet. */
export async function confirmUpTo(db: Db, position: number, at: Instant): Promise<number> {
  const [done] = await db
    .update(deploys)
    .set({ confirmedAt: at })
    .where(and(isNull(deploys.confirmedAt), sql`${deploys.position} between 1 and ${position}`));
  return done.affectedRows;
}
