import type { EdgeOrder, RoutingEntry } from '@vaquero/contracts';
import {
  type DeliveryMap,
  type Digest,
  type Instant,
  isTop,
  nameOfRef,
  refsInWords,
  ruleNamed,
  shownBy,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { mapOf } from '../map/map-rows.ts';
import { hostOfEnvironment } from '../projects/addresses.ts';
import { endedHosts } from './ended-host-rows.ts';
import { movedHosts } from './moved-hosts.ts';
import { environmentRows, restOf, touchedRows } from './table-rows.ts';
import type { Touched } from './table-touched.ts';
import { takenOutLately } from './taken-out-rows.ts';

/** So many of them an edge keeps ready for each environment. */
const mostEarlier = 20;

/** An order that tells an edge how the routing table stands. */
export type TableOrder = Extract<EdgeOrder, { order: 'table' | 'changes' }>;

/** The whole routing table. `revision` is a position of the log whose decisions are all committed: they are in it. */
export async function wholeTable(deps: Deps, revision: number): Promise<TableOrder> {
  const [rows, ended, elsewhere] = await Promise.all([
    environmentRows(deps.db),
    endedHosts(deps),
    movedHosts(deps),
  ]);
  const hosts = Object.fromEntries(await entriesOf(deps, rows));
  const table = {
    ...(await restOf(deps, revision, elsewhere, ended)),
    hosts,
    // A name that somebody has again is theirs.
    ended: Object.fromEntries(ended.filter(([host]) => hosts[host] === undefined)),
  };
  return { order: 'table', table, lookKey: deps.keys.looking };
}

/** What of the table is another thing than it was at a revision, by what was touched since. */
export async function changesOfTable(
  deps: Deps,
  from: number,
  revision: number,
  touched: Touched,
): Promise<TableOrder> {
  const [rows, elsewhere] = await Promise.all([touchedRows(deps.db, touched), movedHosts(deps)]);
  const isEndTold = rows.some((row) => row.living !== true) || elsewhere.hosts.length > 0;
  const allEnded = isEndTold ? await endedHosts(deps) : [];
  const living = rows.filter((row) => row.living === true);
  const set = Object.fromEntries(await entriesOf(deps, living));
  const hosts = rows.map((row) => hostOf(deps, row));
  const gone = [...new Set(hosts.filter((host) => set[host] === undefined))];
  const ended = allEnded.filter(([host]) => gone.includes(host));
  return {
    order: 'changes',
    from,
    table: await restOf(deps, revision, elsewhere, allEnded),
    hosts: { set, gone },
    ended: { set: Object.fromEntries(ended), gone: Object.keys(set) },
    lookKey: deps.keys.looking,
  };
}

type Row = Awaited<ReturnType<typeof environmentRows>>[number];

function hostOf({ config }: Deps, { project, environment, place }: Row): string {
  return hostOfEnvironment(config, project, { name: environment, place });
}

async function entriesOf(
  deps: Deps,
  rows: readonly Row[],
): Promise<readonly (readonly [string, RoutingEntry])[]> {
  if (rows.length === 0) return [];
  const ids = rows.map(({ id }) => id);
  const earlier = await takenOutLately(deps, ids);
  return Promise.all(
    rows.map(async (row) => {
      const map = await mapOf(deps.db, row.map);
      const lately = newestOnce(earlier.get(row.id) ?? [], row, deps.clock());
      return [hostOf(deps, row), entryOf(row, map, lately)] as const;
    }),
  );
}

type Earlier = RoutingEntry['earlier'];

/** What an hour has taken out, each artifact once and the newest first, without what is served again. */
function newestOnce(
  earlier: readonly { readonly artifact: Digest; readonly until: number }[],
  { artifact: serves }: Pick<Row, 'artifact'>,
  now: number,
): Earlier {
  const seen = new Set([serves]);
  return earlier
    .flatMap(({ artifact, until }): Earlier => {
      if (until < now || seen.has(artifact)) return [];
      seen.add(artifact);
      return [{ artifact, until: until as Instant }];
    })
    .slice(0, mostEarlier);
}

/** What an environment's host answers with. */
function entryOf(
  { rule, ref, place, artifact, id: _, map: __, living: ___, ...row }: Row,
  map: DeliveryMap,
  earlier: Earlier,
): RoutingEntry {
  return {
    ...row,
    ...shownBy(map, rule),
    targets: artifact === null ? [] : [{ artifact, share: 100 }],
    previous: earlier[0] ?? null,
    earlier,
    isTop: isTop(place),
    waitsFor: waitsForOf(map, rule, ref),
  };
}

/** What an environment waits for that serves nothing yet. */
function waitsForOf(map: DeliveryMap, name: string, ref: string | null): string {
  const rule = ruleNamed(map, name);
  if (ref !== null) return `the first build of ${nameOfRef(ref)}`;
  if (rule?.kind === 'accepts') return `the first promotion from ${rule.from}`;
  return `the first commit on ${rule?.kind === 'follows' ? refsInWords(rule.follows) : map.trunk}`;
}
