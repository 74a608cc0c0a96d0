import { setTimeout as pause } from 'node:timers/promises';
import { type EdgeOrder, type RoutingTable, roleRoutes } from '@vaquero/contracts';
import { withChanges } from '@vaquero/core';
import type { Logger } from 'pino';
import type { Bringer } from '../blobs/bring-blobs.ts';
import { type LiveTable, servedBy } from './live-table.ts';
import type { ApiTeller } from './tell-api.ts';

/** What carrying out the api's orders takes. */
export interface OrderTaking {
  readonly table: LiveTable;
  readonly api: ApiTeller;
  readonly instance: string;
  /** Null where the store is shared. */
  readonly bringer: Bringer | null;
  /** Asks this edge through its own socket which revision it answers with; null while it does not listen. */
  readonly askSelf: () => Promise<number> | null;
  readonly log: Logger;
  readonly signal: AbortSignal;
}

/** Carries out orders, and tells the api what came of them. */
export interface Orders {
  readonly take: (order: EdgeOrder) => Promise<void>;
  /** The revision of the table that was told last: what changed since is enough. -1 for none. */
  readonly knows: () => number;
  /** Tells the api what is on disk and answered with. */
  readonly confirm: (kept: Promise<void>) => Promise<void>;
}

const bringAgainMs = 1_000;

/** A table that relies on what this stream never brought: the next stream begins with all of it. */
export class TableUnknown extends Error {
  override readonly name = 'TableUnknown';
}

type WholeOrder = Extract<EdgeOrder, { order: 'table' }>;
type ChangesOrder = Extract<EdgeOrder, { order: 'changes' }>;

/** Whether an order tells a table, whole or by its changes. */
export function isTable(order: EdgeOrder): order is WholeOrder | ChangesOrder {
  return order.order === 'table' || order.order === 'changes';
}

/** Makes what carries out orders. */
export function makeOrders(taking: OrderTaking): Orders {
  const { table, api, instance, bringer, askSelf } = taking;
  /** The newest table that came, in force or not. */
  let newest = -1;
  /** The table that came last, in force or not, or that is on disk from before: later ones say what is another thing than in it. */
  let last = table.current();
  const wholeOf = (order: WholeOrder | ChangesOrder): RoutingTable => {
    if (order.order === 'table') last = order.table;
    else if (last.revision === order.from) last = changed(order, last);
    else {
      // What changed is of a table that did not come: the stream begins anew, with all of it.
      const { revision } = last;
      last = { ...last, revision: -1 };
      throw new TableUnknown(`what changed since ${order.from} came to one of ${revision}`);
    }
    return last;
  };

  const prepare = async ({ id, artifact }: Extract<EdgeOrder, { order: 'prepare' }>) => {
    const problem =
      (await bringer?.bring(artifact).then(() => null, String)) ?? table.prepare(artifact) ?? null;
    if (problem === null || bringer === null) return answer(id, problem);
    // A disk of its own can spoil what the store still has: this edge alone must not hold up a move.
    const why = await bringer.mend(artifact).then(() => null, String);
    await answer(id, why ?? table.prepare(artifact));
  };
  const answer = async (id: string, problem: string | null): Promise<void> => {
    await api.tell(roleRoutes.edgeAnswerRoute, { id, problem });
  };
  const confirm = async (kept: Promise<void>): Promise<void> => {
    const [answered] = await Promise.all([askSelf() ?? -1, kept]);
    const revision = Math.min(answered, table.onDisk());
    if (revision < 0) return;
    await api.tell(roleRoutes.edgeConfirmRoute, { instance, revision });
  };
  return {
    confirm,
    knows: () => last.revision,
    take: async (order) => {
      if (order.order === 'prepare') await prepare(order);
      if (!isTable(order)) return;
      table.letLook(order.lookKey);
      const next = wholeOf(order);
      newest = Math.max(newest, next.revision);
      if (!(await bringServed(taking, next, () => newest))) return;
      await confirm(table.adopt(next));
    },
  };
}

/** The table that came before, with its changes. */
function changed({ table, hosts, ended }: ChangesOrder, before: RoutingTable): RoutingTable {
  return {
    ...table,
    hosts: withChanges(before.hosts, hosts),
    ended: withChanges(before.ended, ended),
  };
}

/**
 * Brings what a table's environments serve before the table is in force: until then visitors get what they
 * got. False when a newer table has come meanwhile.
 */
async function bringServed(
  { bringer, log, signal }: OrderTaking,
  next: RoutingTable,
  newest: () => number,
): Promise<boolean> {
  if (bringer === null) return true;
  for (;;) {
    const err = await Promise.all([...servedBy(next)].map(bringer.bring)).then(
      () => null,
      (cause: unknown) => cause,
    );
    if (newest() > next.revision) return false;
    if (err === null) return true;
    log.warn({ err, revision: next.revision }, 'what is to be served is not here yet');
    await pause(bringAgainMs, undefined, { signal });
  }
}
