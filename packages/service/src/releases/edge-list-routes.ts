import { randomBytes } from 'node:crypto';
import { edgeRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import type { Express } from 'express';
import { record, sha256 } from '../audit/record.ts';
import type { Tx } from '../database/pool.ts';
import { machines } from '../database/tables.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { serveCaller } from '../http/serve-route.ts';
import type { Caller } from '../people/caller.ts';
import { refused } from '../refused.ts';
import { dropEdge, edgesOf } from './edge-rows.ts';
import { servedRevision } from './publish-table.ts';

/** Serves edges to the operator: their list, adding one, and taking one's token back. */
export function serveEdgeList(app: Express, deps: Deps): void {
  const list = async () => {
    const [edges, newest] = await Promise.all([edgesOf(deps.db), servedRevision(deps)]);
    return {
      edges: edges.map(({ name, revision, fresh, silentS }) => ({
        name,
        revision,
        current: revision >= newest,
        heardAt: silentS === null ? null : ((deps.clock() - silentS * 1000) as Instant),
        present: fresh,
      })),
    };
  };
  serveCaller(app, deps, edgeRoutes.listEdgesRoute, list);
  serveCaller(app, deps, edgeRoutes.addEdgeRoute, async ({ body: { name }, caller }) => {
    const token = `vaqe_${randomBytes(32).toString('base64url')}`;
    try {
      await inTransaction(deps.db, async (tx) => {
        const row = { id: deps.newId(), role: 'edge' as const, name, tokenHash: sha256(token) };
        await tx.insert(machines).values(row);
        await note(deps, tx, 'edge.added', name, caller);
      });
    } catch (error) {
      if (isDuplicate(error)) return refused({ code: 'name-taken', name, free: [] });
      throw error;
    }
    return { name, token };
  });
  serveCaller(app, deps, edgeRoutes.dropEdgeRoute, async ({ params, caller }) => {
    const name = params.edge ?? '';
    await inTransaction(deps.db, async (tx) => {
      const edge = (await edgesOf(tx)).find((one) => one.name === name);
      if (edge === undefined) return refused({ code: 'not-found', what: 'edge', name });
      if (edge.fresh) return refused({ code: 'edge-serves', edge: name });
      await dropEdge(tx, edge.id);
      await note(deps, tx, 'edge.dropped', name, caller);
    });
    // A token that is remembered would be good for some seconds more.
    deps.knownEdges.clear();
    return list();
  });
}

function note(deps: Deps, tx: Tx, kind: string, edge: string, caller: Caller): Promise<number> {
  return record(tx, {
    at: deps.clock(),
    kind,
    projectId: null,
    project: null,
    doing: caller.doing,
    facts: { edge },
  });
}
