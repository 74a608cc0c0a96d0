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

/**
 * Sends the routing table as it stands now to every edge; returns its revision.
 * `committed` is the position of a move that was just committed: it saves asking for the head.
 */
export async function publishTable(deps: Deps, committed?: number): Promise<number> {
  const order = await tableOrder(deps, committed);
  deps.edges.broadcast(order);
  return order.table.revision;
}

/** The order that tells an edge the whole table as it stands now. */
export async function tableOrder(
  deps: Deps,
  committed?: number,
): Promise<Extract<EdgeOrder, { order: 'table' }>> {
  const { table, artifacts, list } = await readTable(deps, committed);
  return { order: 'table', table, artifacts, list, lookKey: deps.keys.looking };
}

/**
 * Reads the routing table. Its revision is the log's position, read before the rows: whatever was
 * committed up to there is in them, so an edge that confirms the revision has seen all of it.
 */
async function readTable(deps: Deps, committed?: number): Promise<ReadTable> {
  const revision = committed ?? (await headPosition(deps));
  const { last } = deps.edges;
  // A move stores nothing: directly behind a table that was read, its artifacts are those of that one.
  const isNext = committed !== undefined && last.read?.revision === committed - 1;
  const [entries, known] = await Promise.all([
    entriesOf(deps),
    isNext && last.read !== null ? last.read : artifactsOf(deps).then(named),
  ]);
  const { artifacts: all, list } = known;
  if (last.read === null || last.read.revision < revision)
    last.read = { revision, artifacts: all, list };
  return {
    table: {
      revision,
      hosts: Object.fromEntries(entries),
      artifactsBase: deps.config.artifactsBase,
    },
    artifacts: all,
    list,
  };
}

interface ReadTable {
  readonly table: Omit<RoutingTable, 'artifacts'>;
  readonly artifacts: RoutingTable['artifacts'];
  readonly list: string;
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
  last.checked = head;
  if (row !== undefined) await publishTable(deps);
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

async function entriesOf(deps: Deps): Promise<readonly (readonly [string, RoutingEntry])[]> {
  const rows = await everyEnvironment(deps.db).execute();
  return rows.map((row) => [
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
  ]);
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
