import type { EdgeOrder, RoutingEntry, RoutingTable } from '@vaquero/contracts';
import {
  type Admits,
  type DeliveryMap,
  type Digest,
  type Instant,
  isTop,
  kindsThat,
  later,
  nameOfRef,
  refsInWords,
  ruleNamed,
  shownBy,
} from '@vaquero/core';
import { asc, desc, eq, inArray } from 'drizzle-orm';
import { sha256 } from '../audit/record.ts';
import { madeOnce } from '../database/made-once.ts';
import {
  builds,
  deploys,
  environments,
  logEntries,
  logHead,
  projects,
  routingEntries,
} from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import { mapOf } from '../map/map-rows.ts';
import { hostOfEnvironment } from '../projects/addresses.ts';
import { Impossible } from '../refused.ts';
import { endedHosts } from './ended-hosts.ts';
import { movedHosts } from './moved-hosts.ts';
import { namedArtifacts } from './named-artifacts.ts';
import { earlierMs, takenOutLately } from './taken-out-lately.ts';

/** So many of them an edge keeps ready for each environment. */
const mostEarlier = 20;

/** A move that was just committed: the position of its entry, and what its host answers with from now on. */
export interface JustMoved {
  readonly position: number;
  readonly serves: Served & {
    /** The artifact that was served before, and whether a secret was found in it. */
    readonly before: string | null;
    readonly beforeLeaks: boolean;
  };
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
  const { revision, hosts, ended, moved: elsewhere, artifacts: all, list } = read;
  const admission = { console: deps.config.origin, key: deps.keys.passPem };
  const { artifactsBase } = deps.config;
  const table = { revision, hosts, ended, moved: elsewhere, artifactsBase, admission };
  return { order: 'table', table, artifacts: all, list, lookKey: deps.keys.looking };
}

/** The routing table as it was read at a revision. */
export interface ReadTable {
  readonly revision: number;
  readonly hosts: RoutingTable['hosts'];
  readonly ended: RoutingTable['ended'];
  readonly moved: RoutingTable['moved'];
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
  const { serves } = moved;
  const [host] = entryFor(deps, serves, []);
  const out =
    serves.before === null || serves.beforeLeaks
      ? []
      : [{ artifact: serves.before, until: later(serves.committedAt as Instant, earlierMs) }];
  const kept = read.hosts[host]?.earlier ?? [];
  const [, entry] = entryFor(deps, serves, newestOnce([...out, ...kept], serves, deps.clock()));
  return { ...read, revision: moved.position, hosts: { ...read.hosts, [host]: entry } };
}

/**
 * Reads the routing table. Its revision is the log's position, read before the rows: whatever was
 * committed up to there is in them, so an edge that confirms the revision has seen all of it.
 */
async function readTable(deps: Deps, committed?: number): Promise<ReadTable> {
  const revision = committed ?? (await headPosition(deps));
  const [rows, known, earlier, gone, elsewhere] = await Promise.all([
    everyEnvironment(deps.db).execute(),
    namedArtifacts(deps.db).then(named),
    takenOutLately(deps),
    endedHosts(deps),
    movedHosts(deps),
  ]);
  const entries = await Promise.all(
    rows.map(async ({ id, map: ofMap, rule, ref, ...row }) => {
      const map = await mapOf(deps.db, ofMap);
      const waitsFor = waitsForOf(map, rule, ref);
      const lately = newestOnce(earlier.get(id) ?? [], row, deps.clock());
      return entryFor(deps, { ...row, ...shownBy(map, rule), waitsFor }, lately);
    }),
  );
  const hosts = Object.fromEntries(entries);
  // A name that somebody has again is theirs.
  const ended = Object.fromEntries(gone.filter(([host]) => hosts[host] === undefined));
  // Whoever had a name last is who it stands for, also after their end.
  const led = elsewhere.hosts.filter(
    ([host, , since]) => hosts[host] === undefined && (ended[host]?.at ?? 0) < since,
  );
  const taken = new Set(rows.map(({ project }) => project));
  const renamed = Object.entries(elsewhere.projects).filter(([name]) => !taken.has(name));
  const moved = {
    hosts: Object.fromEntries(led),
    projects: Object.fromEntries(renamed),
  };
  return { ...known, revision, hosts, ended, moved };
}

/** What an environment waits for that serves nothing yet. */
export function waitsForOf(map: DeliveryMap, name: string, ref: string | null): string {
  const rule = ruleNamed(map, name);
  if (ref !== null) return `the first build of ${nameOfRef(ref)}`;
  if (rule?.kind === 'accepts') return `the first promotion from ${rule.from}`;
  return `the first commit on ${rule?.kind === 'follows' ? refsInWords(rule.follows) : map.trunk}`;
}

type Earlier = RoutingEntry['earlier'];

/** What an hour has taken out, each artifact once and the newest first, without what is served again. */
function newestOnce(
  earlier: readonly { readonly artifact: string; readonly until: number }[],
  { targets }: Pick<Served, 'targets'>,
  now: number,
): Earlier {
  const seen = new Set((targets ?? []).map((target) => target.artifact));
  return earlier
    .flatMap(({ artifact, until }): Earlier => {
      if (until < now || seen.has(artifact)) return [];
      seen.add(artifact);
      return [{ artifact: artifact as Digest, until: until as Instant }];
    })
    .slice(0, mostEarlier);
}

/** A list by what it holds: whoever reads the same has the same name for it. */
function named(all: RoutingTable['artifacts']): Pick<ReadTable, 'artifacts' | 'list'> {
  return { artifacts: all, list: sha256(JSON.stringify(all)) };
}

/**
 * Sends the table when something was decided that changes what edges answer, by this api process or another one, since
 * this one sent it last: each edge hears of moves from the process that it holds its stream to.
 */
export async function publishIfBehind(deps: Deps): Promise<void> {
  const { last } = deps.edges;
  if (deps.edges.names().length === 0) return;
  const { position, routing } = deps.follower.seen();
  if (routing > Math.max(last.checked, last.read?.revision ?? -1)) await publishTable(deps);
  last.checked = Math.max(last.checked, position);
}

/** The position of the newest decision that changed what edges answer: an edge that confirmed it is up to date. */
export async function servedRevision(deps: Deps): Promise<number> {
  const [row] = await deps.db
    .select({ position: logEntries.position })
    .from(logEntries)
    .where(inArray(logEntries.kind, [...kindsThat('routing')]))
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
  readonly environment: string;
  readonly place: number;
  /** What it waits for while it serves nothing, in words. */
  readonly waitsFor: string;
  readonly targets: readonly { readonly artifact: string; readonly share: number }[] | null;
  readonly deploy: number | null;
  readonly committedAt: number | null;
  readonly commit: string | null;
  readonly build: number | null;
  readonly admits: Admits;
  readonly marks: boolean;
  /** The hash of the link that is lent for it. */
  readonly link: string | null;
}

function entryFor(deps: Deps, row: Served, earlier: Earlier): readonly [string, RoutingEntry] {
  return [
    hostOfEnvironment(deps.config, row.project, { name: row.environment, place: row.place }),
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
      previous: earlier[0] ?? null,
      earlier,
      isTop: isTop(row.place),
      waitsFor: row.waitsFor,
      admits: row.admits,
      link: row.link,
      marks: row.marks,
    },
  ];
}

const everyEnvironment = madeOnce((db) =>
  db
    .select({
      id: environments.id,
      project: projects.name,
      map: { id: projects.id, mapVersion: projects.mapVersion, branch: projects.branch },
      rule: environments.rule,
      ref: environments.ref,
      place: environments.place,
      link: environments.linkHash,
      environment: environments.name,
      targets: routingEntries.targets,
      deploy: deploys.number,
      committedAt: deploys.committedAt,
      commit: deploys.commitId,
      build: builds.number,
    })
    .from(environments)
    .innerJoin(projects, eq(projects.id, environments.projectId))
    .leftJoin(routingEntries, eq(routingEntries.environmentId, environments.id))
    .leftJoin(deploys, eq(deploys.id, routingEntries.deployId))
    .leftJoin(builds, eq(builds.id, deploys.buildId))
    .where(eq(environments.living, true))
    .orderBy(asc(environments.id))
    .prepare(),
);
