import { environmentRoutes } from '@vaquero/contracts';
import { undoneNumbers } from '@vaquero/core';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { environmentEver } from '../environments/environment-rows.ts';
import { deployByNumber, undoneSpans } from '../environments/ledger-rows.ts';
import { serve } from '../http/serve-route.ts';
import { answerAgain } from '../moves/answer-again.ts';
import { letIn } from '../moves/let-in.ts';
import { liftHold } from '../moves/lift-hold.ts';
import { promote } from '../moves/promote.ts';
import { rollBack } from '../moves/roll-back.ts';
import { maySee } from '../people/caller.ts';
import { livingProjects } from '../projects/project-rows.ts';
import { offersTo } from '../views/offer-rows.ts';
import { viewDeploy, viewEdges, viewEnvironments, viewLanes } from '../views/view-environments.ts';
import { viewHistory } from '../views/view-history.ts';
import { serveAct, serveKeyed } from './serve-act.ts';

/** Serves environments: what is live, the lanes, the history, and the three acts. */
export function serveEnvironments(app: Express, deps: Deps): void {
  serve(app, deps, environmentRoutes.liveRoute, async ({ caller }) => {
    const seen = (await livingProjects(deps.db)).filter((project) => maySee(caller, project.id));
    const projects = await Promise.all(
      seen.map(async (project) => ({
        project: project.name,
        environments: [...(await viewEnvironments(deps, project))],
      })),
    );
    return { now: deps.clock(), edges: await viewEdges(deps), projects };
  });
  serve(app, deps, environmentRoutes.offersRoute, async ({ caller }) => ({
    offers: await offersTo(deps, caller),
  }));
  serve(app, deps, environmentRoutes.lanesRoute, ({ project, query }) =>
    viewLanes(deps, project, query.days),
  );
  serve(app, deps, environmentRoutes.historyRoute, ({ project, params, query }) =>
    viewHistory(
      deps,
      project,
      params.environment,
      query.before ?? Number.MAX_SAFE_INTEGER,
      query.limit,
    ),
  );
  serve(app, deps, environmentRoutes.showEnvironmentRoute, async ({ project, params }) => {
    const name = params.environment;
    const found = (await viewEnvironments(deps, project)).find((one) => one.name === name);
    return found ?? refused({ code: 'not-found', what: 'environment', name });
  });
  serve(app, deps, environmentRoutes.showDeployRoute, async ({ project, params }) => {
    const environment = await environmentEver(deps.db, project.id, params.environment);
    const deploy = environment && (await deployByNumber(deps.db, environment.id, params.deploy));
    if (deploy === undefined)
      return refused({ code: 'not-found', what: 'deploy', name: String(params.deploy) });
    const spans = await undoneSpans(deps.db, deploy.environmentId, deploy.number);
    return viewDeploy(deploy, undoneNumbers(spans).has(deploy.number));
  });
  serveKeyed(app, deps, environmentRoutes.promoteRoute, {
    act: (call, keyed) =>
      promote(deps, { ...call, keyed }, { ...call.body, reason: call.body.reason ?? null }),
    again: (call, keyed) => answerAgain(deps, { ...call, keyed }),
  });
  serveKeyed(app, deps, environmentRoutes.letInRoute, {
    act: (call, keyed) =>
      letIn(deps, { ...call, keyed }, { ...call.body, reason: call.body.reason ?? null }),
    again: (call, keyed) => answerAgain(deps, { ...call, keyed }),
  });
  serveKeyed(app, deps, environmentRoutes.rollBackRoute, {
    act: (call, keyed) =>
      rollBack(deps, { ...call, keyed }, { ...call.body, to: call.body.to ?? null }),
    again: (call, keyed) => answerAgain(deps, { ...call, keyed }),
  });
  serveAct(
    app,
    deps,
    environmentRoutes.liftHoldRoute,
    ({ project, params, body, caller }, done) =>
      liftHold(deps, { project, name: params.environment, ...body, caller }, done),
    (_call, kept) => Promise.resolve(kept),
  );
}
