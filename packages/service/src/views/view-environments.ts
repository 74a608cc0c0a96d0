import type { DeploySeen, EnvironmentSeen, HoldSeen, LaneReply } from '@vaquero/contracts';
import {
  acceptsFrom,
  type DeliveryMap,
  type EnvironmentRule,
  entranceOf,
  findWayBack,
  type Instant,
  later,
  type MapAct,
  type Role,
  refOfBranch,
  ruleInWords,
  ruleNamed,
  undoneNumbers,
  whoMay,
} from '@vaquero/core';
import { headPosition } from '../audit/log-entry-rows.ts';
import type { Deps } from '../base/deps.ts';
import {
  type EnvironmentRow,
  environmentNow,
  environmentsOf,
} from '../environments/environment-rows.ts';
import { type HoldView, holdsSince, standingHold } from '../environments/hold-rows.ts';
import {
  type DeployView,
  decisionLedger,
  deployById,
  deployByNumber,
  entryOf,
  firstLiveSince,
  ledgerOf,
} from '../environments/ledger-rows.ts';
import { edgesOf } from '../machines/edge-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import { addressOf, hostOfEnvironment } from '../projects/addresses.ts';
import { type ProjectRow, refsKnown } from '../projects/project-rows.ts';
import { commitsBetween, directoryOf } from '../repositories/bare-repository.ts';
import { minutesSince } from '../visits/visit-rows.ts';
import { familiesOf } from './view-families.ts';
import { whatWaits } from './what-waits.ts';

/** A deploy as people see it. */
export function viewDeploy(deploy: DeployView, undone: boolean): DeploySeen {
  const entry = entryOf(deploy);
  return {
    number: deploy.number,
    kind: deploy.kind,
    artifact: entry.artifact,
    build: deploy.build,
    commit: deploy.commitId,
    subject: deploy.subject,
    by: deploy.by,
    through: deploy.through,
    reason: deploy.reason,
    undoes: entry.undoes === null ? null : { ...entry.undoes },
    undone,
    kept: deploy.kept,
    committedAt: entry.committedAt,
    confirmedAt: deploy.confirmedAt as Instant | null,
    builtInMs: deploy.builtInMs,
    position: deploy.position,
  };
}

/** A hold as people see it. */
export function viewHold(hold: HoldView): HoldSeen {
  const { by, since, reason, liftedAt, liftedBy } = hold;
  return { by, since: since as Instant, reason, liftedAt: liftedAt as Instant | null, liftedBy };
}

/** Deploys as people see them, each knowing whether a rollback has undone it. Takes a whole ledger, oldest first. */
export function viewLedger(ledger: readonly DeployView[]): readonly DeploySeen[] {
  const undone = undoneNumbers(ledger.map(entryOf));
  return ledger.map((deploy) => viewDeploy(deploy, undone.has(deploy.number)));
}

/** All environments of a project in lane order, each with what it serves, what waits and the way back. */
export async function viewEnvironments(
  deps: Deps,
  project: ProjectRow,
  isMeant: (row: EnvironmentRow) => boolean = () => true,
): Promise<readonly EnvironmentSeen[]> {
  const [rows, map] = await Promise.all([
    environmentsOf(deps.db, project.id),
    mapOf(deps.db, project),
  ]);
  const meant = rows.filter(isMeant);
  const [heads, families] = await Promise.all([
    refsKnown(deps.db, project.repositoryId),
    familiesOf(deps, project, map, meant),
  ]);
  const ref = refOfBranch(map.trunk);
  const head = ref === undefined ? null : (heads.get(ref) ?? null);
  return Promise.all(
    meant.map((row) => {
      const family = families.get(row.id) ?? null;
      return viewEnvironment(deps, { project, map, rows, row, head, family });
    }),
  );
}

interface ViewOne {
  readonly project: ProjectRow;
  readonly map: DeliveryMap;
  readonly rows: readonly EnvironmentRow[];
  readonly row: EnvironmentRow;
  /** Where the trunk is. */
  readonly head: string | null;
  readonly family: EnvironmentSeen['family'];
}

async function viewEnvironment(
  deps: Deps,
  { project, map, rows, row, head, family }: ViewOne,
): Promise<EnvironmentSeen> {
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const rule = ruleNamed(map, row.rule);
  const from = acceptsFrom(map, row.rule);
  const [serves, hold, wayBack, waits] = await Promise.all([
    row.servesDeployId === null ? null : deployById(deps.db, row.servesDeployId),
    standingHold(deps.db, row.id),
    wayBackOf(deps, row),
    whatWaits(deps, { project, rule, rows, row, from }),
  ]);
  return {
    name: row.name,
    address: addressOf(hostOfEnvironment(deps.config, project.name, row)),
    generation: row.generation,
    rule: rule === undefined ? 'has no rule any more' : ruleInWords(rule),
    place: row.place,
    family,
    acceptsFrom: from,
    isOnWord: rule !== undefined && entranceOf(rule) === 'on-word',
    admits: rule?.admits ?? 'members',
    isLent: row.linkHash !== null,
    may: mayOf(rule, row),
    overtaken: rule?.overtaken ?? 'finish',
    serves: serves === null ? null : viewDeploy(serves, false),
    hold: hold === null ? null : viewHold(hold),
    waits,
    wayBack,
    commitsBehind:
      serves === null || head === null
        ? null
        : await commitsBetween(directory, serves.commitId, head),
  };
}

/** Who may do what to it, as the map says or leaves it. */
export function mayOf(
  rule: EnvironmentRule | undefined,
  { place }: EnvironmentRow,
): EnvironmentSeen['may'] {
  const of = (act: MapAct): Role | 'nobody' | string[] => {
    const who = whoMay(rule?.may ?? {}, place, act);
    return typeof who === 'string' ? who : [...who];
  };
  return { promote: of('promote'), 'roll-back': of('roll-back'), hold: of('hold'), end: of('end') };
}

async function wayBackOf(deps: Deps, row: EnvironmentRow): Promise<EnvironmentSeen['wayBack']> {
  // What has moved once at most has nothing behind it: most previews are so.
  if (row.generation < 2) return null;
  const now = await environmentNow(deps.db, row);
  const back = findWayBack(now, await decisionLedger(deps.db, row, null, now), null);
  if (!back.ok) return null;
  const { target, undoes } = back.value;
  const { number, build, artifact } = target;
  const subject = (await deployByNumber(deps.db, row.id, number))?.subject ?? '';
  return { deploy: number, build, artifact, subject, undoes: { ...undoes } };
}

/** What edges there are and how far each has confirmed. */
export async function viewEdges(deps: Deps): Promise<LaneReply['edges']> {
  const edges = await edgesOf(deps.db);
  return {
    running: edges.filter((edge) => edge.fresh).length,
    names: edges.map(({ name, fresh, revision }) => ({ name, fresh, revision })),
  };
}

/** The lanes page: environments with their ledgers and holds over the last days. */
export async function viewLanes(deps: Deps, project: ProjectRow, days: number): Promise<LaneReply> {
  const now = deps.clock();
  const since = later(now, -days * 86_400_000);
  const [views, rows, edges, position] = await Promise.all([
    viewEnvironments(deps, project),
    environmentsOf(deps.db, project.id),
    viewEdges(deps),
    headPosition(deps.db),
  ]);
  const minutes = await minutesSince(
    deps.db,
    rows.map((row) => row.id),
    later(now, -3_600_000),
  );
  const environments = await Promise.all(
    views.map(async (view, place) => {
      const id = rows[place]?.id ?? '';
      const first = await firstLiveSince(deps.db, id, since);
      const [ledger, holds] = await Promise.all([
        ledgerOf(deps.db, id, first),
        holdsSince(deps.db, id, since),
      ]);
      const own = minutes.filter(({ environmentId }) => environmentId === id);
      return {
        ...view,
        ledger: [...viewLedger(ledger)],
        holds: holds.map(viewHold),
        minutes: own.map(({ from, requests, bad }) => ({ from: from as Instant, requests, bad })),
      };
    }),
  );
  return { now, position, edges, environments };
}
