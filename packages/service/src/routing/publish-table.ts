import type { Deps } from '../base/deps.ts';
import { changesOfTable, type TableOrder, wholeTable } from './routing-table.ts';
import { touchedSince } from './table-touched.ts';

/**
 * Tells every edge that is connected here how the routing table stands now; returns a revision that all of them are told,
 * with all that was decided before the call.
 */
export function publishTable(deps: Deps): Promise<number> {
  return deps.edges.publish(async () => {
    const all = deps.edges.connected();
    const known = [...new Set(all.map(({ knows }) => knows))];
    const revisions = known.map(async (from) => {
      const order = await tableSince(deps, from);
      const { revision } = order.table;
      // What they know is what it was: one telling runs at a time.
      const edges = all.filter(({ knows, told }) => knows === from && told < revision);
      deps.edges.tell(edges, order);
      return revision;
    });
    return Math.min(Number.MAX_SAFE_INTEGER, ...(await Promise.all(revisions)));
  });
}

/**
 * The order that takes an edge from a table that it knows to the one of now: the log says what was touched in between. The
 * whole table where it knows none (-1), or where that says too little.
 */
export async function tableSince(deps: Deps, from: number): Promise<TableOrder> {
  const { revision, touched } = await touchedSince(deps.db, from);
  return touched === null
    ? wholeTable(deps, revision)
    : changesOfTable(deps, from, revision, touched);
}

/**
 * Tells edges the table when something was decided that changes what they answer, by this api process or another one, since
 * they were told it last: each edge hears of moves from the process that it holds its stream to.
 */
export async function publishIfBehind(deps: Deps): Promise<void> {
  const { routing } = deps.follower.seen();
  if (deps.edges.connected().some((edge) => edge.told < routing)) await publishTable(deps);
}
