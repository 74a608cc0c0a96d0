import { edgeRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import type { Express } from 'express';
import { servedRevision } from '../audit/log-entry-rows.ts';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { inTransaction } from '../database/transaction.ts';
import { serve } from '../http/serve-route.ts';
import { addMachine } from '../machines/add-machine.ts';
import { dropEdge, edgesOf } from '../machines/edge-rows.ts';
import { neverAgain, serveAct } from './serve-act.ts';

/** Serves edges to the operator: their list, adding one, and taking one's token back. */
export function serveEdgeList(app: Express, deps: Deps): void {
  const list = async () => {
    const [edges, newest] = await Promise.all([edgesOf(deps.db), servedRevision(deps)]);
    return {
      edges: edges.map(({ name, fresh, silentS, ...row }) => {
        // The row of an edge that confirmed a move waits for its next beat.
        const revision = Math.max(row.revision, deps.edges.revisionOf(name));
        const heardAt = silentS === null ? null : ((deps.clock() - silentS * 1000) as Instant);
        return { name, revision, current: revision >= newest, heardAt, present: fresh };
      }),
    };
  };
  serve(app, deps, edgeRoutes.listEdgesRoute, list);
  serveAct(
    app,
    deps,
    edgeRoutes.addEdgeRoute,
    ({ body, caller }, done) => addMachine(deps, 'edge', body.name, caller, done),
    neverAgain,
  );
  serve(app, deps, edgeRoutes.dropEdgeRoute, async ({ params, caller }) => {
    const name = params.edge;
    await inTransaction(deps.db, async (tx) => {
      const edge = (await edgesOf(tx)).find((one) => one.name === name);
      if (edge === undefined) return refused({ code: 'not-found', what: 'edge', name });
      if (edge.fresh) return refused({ code: 'edge-serves', edge: name });
      await dropEdge(tx, edge.id);
      decide(tx, {
        at: deps.clock(),
        kind: 'edge.dropped',
        project: null,
        doing: caller.doing,
        facts: { edge: name },
      });
    });
    // A token that is remembered would be good for some seconds more.
    deps.knownEdges.clear();
    return null;
  });
}
