import { type EdgeOrder, roleRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import { headPosition } from '../audit/log-entry-rows.ts';
import type { Deps } from '../base/deps.ts';
import { whenClosed } from '../base/when-closed.ts';
import { confirmUpTo } from '../environments/ledger-rows.ts';
import { serve } from '../http/serve-route.ts';
import { edgesOf, noteBeat, noteEdge } from '../machines/edge-rows.ts';
import { artifactAt } from '../routing/artifact-names.ts';
import { publishTable } from '../routing/publish-table.ts';
import { takeFigures } from '../visits/take-figures.ts';

const beatEveryMs = 2_000;

/** Serves edges: a stream of orders one way, answers and confirmations the other. */
export function serveEdges(app: Express, deps: Deps): void {
  serve(app, deps, roleRoutes.ordersRoute, async ({ res, query, machine }) => {
    await noteEdge(deps.db, machine.id, query);
    res.writeHead(200, { 'content-type': 'application/x-ndjson', 'cache-control': 'no-store' });
    const { closed: of, knows = null } = query;
    const send = (order: EdgeOrder): void => {
      const told = of === 'known' ? order : withoutClosed(order);
      res.write(`${JSON.stringify(knows === null ? withArtifacts(told) : told)}\n`);
    };
    const stream = deps.edges.join({
      name: machine.name,
      instance: query.instance,
      revision: query.revision,
      knows,
      send,
    });
    const beat = setInterval(() => send({ order: 'beat' }), beatEveryMs);
    const closed = new Promise<void>((resolve) => whenClosed(res, resolve));
    await publishTable(deps);
    await closed;
    clearInterval(beat);
    stream.leave();
    return undefined;
  });
  serve(app, deps, roleRoutes.artifactNameRoute, async ({ query }) => {
    // Before it is read: whatever was decided up to there is in it.
    const revision = await headPosition(deps.db);
    return { revision, named: await artifactAt(deps, query.host) };
  });
  serve(app, deps, roleRoutes.edgeAnswerRoute, async ({ body, machine }) => {
    deps.edges.answered(machine.name, body.id, body.problem);
    return null;
  });
  serve(app, deps, roleRoutes.edgeConfirmRoute, async ({ body, machine }) => {
    const awaited = deps.edges.noteConfirmed(machine.name, body.instance, body.revision);
    // The move that waits for this writes down its own confirmation, and the next beat the edge's row: one
    // more write now would stand before the move's on its way to the disk.
    if (awaited) return null;
    await noteBeat(deps.db, machine.id, body.instance, body.revision);
    await confirmWhatAllHave(deps);
    return null;
  });
  serve(app, deps, roleRoutes.edgeBeatRoute, async ({ body, machine }) => {
    const { instance, figures } = body;
    if (figures !== null) await takeFigures(deps, { id: machine.id, instance }, figures);
    await noteBeat(deps.db, machine.id, body.instance, body.revision);
    await confirmWhatAllHave(deps);
    return null;
  });
}

/** What an edge is told that would answer everybody: what is for some people alone serves nothing there. */
function withoutClosed(order: EdgeOrder): EdgeOrder {
  if (order.order !== 'table') return order;
  const hosts = Object.entries(order.table.hosts).map(([host, entry]) => [
    host,
    entry.admits === 'anyone'
      ? entry
      : { ...entry, targets: [], deploy: null, previous: null, earlier: [] },
  ]);
  return {
    ...order,
    table: { ...order.table, hosts: Object.fromEntries(hosts) },
  };
}

/** What an edge of the version before awaits with its table; it serves environments, and no artifact by its own address. */
function withArtifacts(order: EdgeOrder): object {
  return order.order === 'table' ? { ...order, artifacts: [], list: 'none' } : order;
}

/** A deploy is confirmed once every fresh edge has its revision: also those that a dead api left open. */
async function confirmWhatAllHave(deps: Deps): Promise<void> {
  const fresh = (await edgesOf(deps.db)).filter((edge) => edge.fresh);
  if (fresh.length === 0) return;
  await confirmUpTo(deps.db, Math.min(...fresh.map((edge) => edge.revision)), deps.clock());
}
