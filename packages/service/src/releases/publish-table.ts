import type { EdgeOrder, RoutingEntry, RoutingTable } from '@vaquero/contracts';
import { type Digest, type Instant, later } from '@vaquero/core';
import { and, asc, desc, eq, gt, inArray, isNull, lte, or } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import { sha256 } from '../audit/record.ts';
import { madeOnce } from '../database/made-once.ts';
import {
  artifacts,
  builds,
  deploys,
  environments,
  logEntries,
  logHead,
  projects,
  routingEntries,
} from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import { hostOfEnvironment } from '../projects/addresses.ts';
import { Impossible } from '../refused.ts';

/** How long open pages keep the assets of the artifact that was served before. */
const previousMs = 3_600_000;

/** A move that was just committed: the position of its entry, and what its host answers with from now on. */
export interface JustMoved {
  readonly position: number;
  readonly serves: Served;
}

/**
 * Sends the routing table as it stands now to every edge; returns its revision. A move that was just committed is
 * told with what it moved, which mostly saves reading the table.
 */
export async function publishTable(deps: Deps, moved?: JustMoved): Promise<number> {
  const order = await tableOrder(deps, moved);
  deps.edges.broadcast(order);
  return order.table.revision;
}

/** The order that tells an edge the whole table as it stands now. */
export async function tableOrder(
  deps: Deps,
  moved?: JustMoved,
): Promise<Extract<EdgeOrder, { order: 'table' }>> {
  const read = afterMove(deps, moved) ?? (await readTable(deps, moved?.position));
  const { last } = deps.edges;
  if (last.read === null || last.read.revision < read.revision) last.read = read;
  const { revision, hosts, artifacts: all, list } = read;
  const table = { revision, hosts, artifactsBase: deps.config.artifactsBase };
  return { order: 'table', table, artifacts: all, list, lookKey: deps.keys.looking };
}

/** The routing table as it was read at a revision. */
export interface ReadTable {
  readonly revision: number;
  readonly hosts: RoutingTable['hosts'];
  readonly artifacts: RoutingTable['artifacts'];
  readonly list: string;
}

/**
 * The table behind a move, which changes one host: the one that was read last with that host's new entry, if nothing
 * that edges answer was decided in between. Every decision takes a position, so that is known. Null otherwise.
 */
function afterMove(deps: Deps, moved: JustMoved | undefined): ReadTable | null {
  const { read, checked } = deps.edges.last;
  if (moved === undefined || read === null) return null;
  if (Math.max(read.revision, checked) !== moved.position - 1) return null;
  const [host, entry] = entryFor(deps, moved.serves);
  return { ...read, revision: moved.position, hosts: { ...read.hosts, [host]: entry } };
}

/**
 * Reads the routing table. Its revision is the log's position, read before the rows: whatever was
 * committed up to there is in them, so an edge that confirms the revision has seen all of it.
 */
async function readTable(deps: Deps, committed?: number): Promise<ReadTable> {
  const revision = committed ?? (await headPosition(deps));
  const [rows, known] = await Promise.all([
    everyEnvironment(deps.db).execute(),
    artifactsOf(deps).then(named),
  ]);
  return { ...known, revision, hosts: Object.fromEntries(rows.map((row) => entryFor(deps, row))) };
}

/** A list by what it holds: whoever reads the same has the same name for it. */
function named(all: RoutingTable['artifacts']): Pick<ReadTable, 'artifacts' | 'list'> {
  return { artifacts: all, list: sha256(JSON.stringify(all)) };
}

/** Decisions that change what an edge answers. */
const telling = [
  'artifact.stored',
  'build.passed',
  'environment.automatic',
  'environment.promoted',
  'environment.rolled-back',
  'project.made',
];

/**
 * Sends the table when another api process has changed what edges answer since this one sent it last: each
 * edge hears of moves from the process that it holds its stream to.
 */
export async function publishIfBehind(deps: Deps): Promise<void> {
  const { last } = deps.edges;
  if (deps.edges.names().length === 0) return;
  const head = await headPosition(deps);
  const from = Math.max(last.checked, last.read?.revision ?? -1);
  if (head <= from) return;
  const [row] = await deps.db
    .select({ position: logEntries.position })
    .from(logEntries)
    .where(
      and(
        gt(logEntries.position, from),
        lte(logEntries.position, head),
        inArray(logEntries.kind, telling),
      ),
    )
    .limit(1);
  if (row !== undefined) await publishTable(deps);
  last.checked = head;
}

/** The position of the newest decision that changed what edges answer: an edge that confirmed it is up to date. */
export async function servedRevision(deps: Deps): Promise<number> {
  const [row] = await deps.db
    .select({ position: logEntries.position })
    .from(logEntries)
    .where(inArray(logEntries.kind, telling))
    .orderBy(desc(logEntries.position))
    .limit(1);
  return row?.position ?? 0;
}

async function headPosition(deps: Deps): Promise<number> {
  const [head] = await deps.db.select().from(logHead).where(eq(logHead.id, 1));
  if (head === undefined) throw new Impossible('the log has no head row');
  return head.position;
}

/** What a host answers with, from its rows or from the move that was just committed. */
interface Served {
  readonly project: string;
  readonly branch: string;
  readonly environment: string;
  readonly targets: readonly { readonly artifact: string; readonly share: number }[] | null;
  readonly deploy: number | null;
  readonly committedAt: number | null;
  readonly commit: string | null;
  readonly build: number | null;
  /** The artifact that was served before. */
  readonly before: string | null;
}

function entryFor(deps: Deps, row: Served): readonly [string, RoutingEntry] {
  return [
    hostOfEnvironment(deps.config, row.project, row.environment),
    {
      project: row.project,
      environment: row.environment,
      targets: (row.targets ?? []).map((target) => ({
        artifact: target.artifact as Digest,
        share: target.share,
      })),
      deploy: row.deploy,
      build: row.build,
      commit: row.commit,
      previous:
        row.before === null || row.committedAt === null
          ? null
          : {
              artifact: row.before as Digest,
              until: later(row.committedAt as Instant, previousMs),
            },
      waitsFor:
        row.environment === 'production'
          ? 'the first promotion from staging'
          : `the first commit on ${row.branch}`,
    },
  ];
}

const previous = alias(deploys, 'previous');
const everyEnvironment = madeOnce((db) =>
  db
    .select({
      project: projects.name,
      branch: projects.branch,
      environment: environments.name,
      targets: routingEntries.targets,
      deploy: deploys.number,
      committedAt: deploys.committedAt,
      commit: deploys.commitId,
      build: builds.number,
      before: previous.artifact,
    })
    .from(environments)
    .innerJoin(projects, eq(projects.id, environments.projectId))
    .leftJoin(routingEntries, eq(routingEntries.environmentId, environments.id))
    .leftJoin(deploys, eq(deploys.id, routingEntries.deployId))
    .leftJoin(builds, eq(builds.id, deploys.buildId))
    .leftJoin(previous, eq(previous.id, deploys.previousDeployId))
    .where(eq(environments.living, true))
    .orderBy(asc(environments.id))
    .prepare(),
);

/** Each kept artifact under every build that made it; the one just stored belongs to a build that has not passed yet. */
async function artifactsOf(deps: Deps): Promise<RoutingTable['artifacts']> {
  const rows = await deps.db
    .select({
      artifact: artifacts.digest,
      project: projects.name,
      build: builds.number,
      commit: builds.commitId,
    })
    .from(artifacts)
    .innerJoin(projects, eq(projects.id, artifacts.projectId))
    .innerJoin(
      builds,
      and(
        eq(builds.projectId, artifacts.projectId),
        or(eq(builds.artifact, artifacts.digest), eq(builds.id, artifacts.buildId)),
      ),
    )
    .where(isNull(artifacts.goneAt))
    .orderBy(asc(builds.id));
  return rows.map((row) => ({ ...row, artifact: row.artifact as Digest }));
}
