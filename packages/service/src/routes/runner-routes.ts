import { type RunnerSeen, runnerRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import type { Express } from 'express';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import type { Tx } from '../database/pool.ts';
import { inTransaction } from '../database/transaction.ts';
import { serve } from '../http/serve-route.ts';
import { addMachine } from '../machines/add-machine.ts';
import {
  dropRunner,
  type RunnerRow,
  runnerByName,
  runnersOf,
  setDraining,
} from '../machines/runner-rows.ts';
import { neverAgain, serveAct } from './serve-act.ts';

const presentS = 30;

/** Serves runners to the operator: their list, adding one, draining one, and taking one's token back. */
export function serveRunners(app: Express, deps: Deps): void {
  const list = async () => ({
    runners: (await runnersOf(deps.db)).map((runner) => view(deps, runner)),
  });
  serve(app, deps, runnerRoutes.listRunnersRoute, list);
  serveAct(
    app,
    deps,
    runnerRoutes.addRunnerRoute,
    ({ body, caller }, done) => addMachine(deps, 'runner', body.name, caller, done),
    neverAgain,
  );
  serve(app, deps, runnerRoutes.setRunnerRoute, async ({ params, body, caller }) => {
    const runner = await inTransaction(deps.db, async (tx) => {
      const known = await named(tx, params.runner);
      await setDraining(tx, known.id, body.draining);
      decide(tx, {
        at: deps.clock(),
        kind: body.draining ? 'runner.draining' : 'runner.used',
        project: null,
        doing: caller.doing,
        facts: { runner: known.name },
      });
      return { ...known, draining: body.draining };
    });
    return view(deps, runner);
  });
  serve(app, deps, runnerRoutes.dropRunnerRoute, async ({ params, caller }) => {
    await inTransaction(deps.db, async (tx) => {
      const { id, name, building } = await named(tx, params.runner);
      if (building > 0) return refused({ code: 'runner-builds', runner: name, builds: building });
      await dropRunner(tx, id);
      decide(tx, {
        at: deps.clock(),
        kind: 'runner.dropped',
        project: null,
        doing: caller.doing,
        facts: { runner: name },
      });
    });
    return null;
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
