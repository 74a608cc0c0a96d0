import { randomBytes } from 'node:crypto';
import { type RunnerSeen, runnerRoutes } from '@vaquero/contracts';
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
import { dropRunner, type RunnerRow, runnerByName, runnersOf, setDraining } from './runner-rows.ts';

const presentS = 30;

/** Serves runners to the operator: their list, adding one, draining one, and taking one's token back. */
export function serveRunners(app: Express, deps: Deps): void {
  const list = async () => ({
    runners: (await runnersOf(deps.db)).map((runner) => view(deps, runner)),
  });
  serveCaller(app, deps, runnerRoutes.listRunnersRoute, list);
  serveCaller(app, deps, runnerRoutes.addRunnerRoute, async ({ body: { name }, caller }) => {
    const token = `vaqr_${randomBytes(32).toString('base64url')}`;
    try {
      await inTransaction(deps.db, async (tx) => {
        const row = { id: deps.newId(), role: 'runner' as const, name, tokenHash: sha256(token) };
        await tx.insert(machines).values(row);
        await note(deps, tx, 'runner.added', name, caller);
      });
    } catch (error) {
      if (isDuplicate(error)) return refused({ code: 'name-taken', name, free: [] });
      throw error;
    }
    return { name, token };
  });
  serveCaller(app, deps, runnerRoutes.drainRunnerRoute, async ({ params, body, caller }) => {
    const runner = await inTransaction(deps.db, async (tx) => {
      const known = await named(tx, params.runner ?? '');
      await setDraining(tx, known.id, body.draining);
      await note(deps, tx, body.draining ? 'runner.draining' : 'runner.used', known.name, caller);
      return { ...known, draining: body.draining };
    });
    deps.queueNudge.ring();
    return view(deps, runner);
  });
  serveCaller(app, deps, runnerRoutes.dropRunnerRoute, async ({ params, caller }) => {
    await inTransaction(deps.db, async (tx) => {
      const { id, name, building } = await named(tx, params.runner ?? '');
      if (building > 0) return refused({ code: 'runner-builds', runner: name, builds: building });
      await dropRunner(tx, id);
      await note(deps, tx, 'runner.dropped', name, caller);
    });
    return list();
  });
}

async function named(tx: Tx, name: string): Promise<RunnerRow> {
  return (await runnerByName(tx, name)) ?? refused({ code: 'not-found', what: 'runner', name });
}

function view(deps: Deps, runner: RunnerRow): RunnerSeen {
  const { name, slots, building, draining, silentS } = runner;
  return {
    name,
    labels: [...runner.labels],
    slots,
    building,
    draining,
    heardAt: silentS === null ? null : ((deps.clock() - silentS * 1000) as Instant),
    present: silentS !== null && silentS < presentS,
  };
}

function note(deps: Deps, tx: Tx, kind: string, runner: string, caller: Caller): Promise<number> {
  return record(tx, {
    at: deps.clock(),
    kind,
    projectId: null,
    project: null,
    doing: caller.doing,
    facts: { runner },
  });
}
