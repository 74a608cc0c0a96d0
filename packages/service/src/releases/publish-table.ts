import { kindsThat } from '@vaquero/core';
import { desc, eq, inArray } from 'drizzle-orm';
import { logEntries, logHead } from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import { Impossible } from '../refused.ts';
import { changesOfTable, type TableOrder, wholeTable } from './routing-table.ts';
import { touchedBetween } from './table-touched.ts';

/** Tells every edge that is connected here how the routing table stands now; returns its revision. */
export function publishTable(deps: Deps): Promise<number> {
  return deps.edges.publish(async () => {
    const revision = await headPosition(deps);
    const behind = deps.edges.connected().filter(({ told }) => told < revision);
    const known = new Set(behind.map(({ knows }) => knows));
    await Promise.all(
      [...known].map(async (from) => {
        const order = await tableSince(deps, from, revision);
        // What they know is what it was: one telling runs at a time.
        const edges = behind.filter(({ knows }) => knows === from);
        deps.edges.tell(edges, order);
      }),
    );
    return revision;
  });
}

/**
 * The order that takes an edge from a table that it knows to the one of a revision: the log says what was touched in between.
 * The whole table where it knows none (-1), or where that says too little.
 */
export async function tableSince(deps: Deps, from: number, revision: number): Promise<TableOrder> {
  const touched = await touchedBetween(deps.db, from, revision);
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

/** The position of the newest decision: whatever was committed up to there is in what is read from now on. */
export async function headPosition({ db }: Pick<Deps, 'db'>): Promise<number> {
  const [head] = await db.select().from(logHead).where(eq(logHead.id, 1));
  if (head === undefined) throw new Impossible('the log has no head row');
  return head.position;
}
