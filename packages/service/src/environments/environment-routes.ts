import { environmentRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../deps.ts';
import { serveCaller, serveEnvironment, serveProject } from '../http/serve-route.ts';
import { maySee } from '../people/caller.ts';
import { allProjects } from '../projects/project-rows.ts';
import { liftHold } from '../releases/lift-hold.ts';
import { promote } from '../releases/promote.ts';
import { rollBack } from '../releases/roll-back.ts';
import { viewHistory } from '../releases/view-history.ts';
import { setOvertaken } from './set-overtaken.ts';
import { viewEdges, viewEnvironments, viewLanes } from './view-environments.ts';

/** Serves environments: what is live, the lanes, the history, and the three acts. */
export function serveEnvironments(app: Express, deps: Deps): void {
  serveCaller(app, deps, environmentRoutes.liveRoute, async ({ caller }) => {
    const seen = (await allProjects(deps.db)).filter((project) => maySee(caller, project.id));
    const projects = await Promise.all(
      seen.map(async (project) => ({
        project: project.name,
        environments: [...(await viewEnvironments(deps, project))],
      })),
    );
    return { now: deps.clock(), edges: await viewEdges(deps), projects };
  });
  serveProject(app, deps, environmentRoutes.lanesRoute, ({ project, query }) =>
    viewLanes(deps, project, query.days),
  );
  serveProject(app, deps, environmentRoutes.historyRoute, ({ project, params, query }) =>
    viewHistory(
      deps,
      project,
      params.environment ?? '',
      query.before ?? Number.MAX_SAFE_INTEGER,
      query.limit,
    ),
  );
  serveProject(
    app,
    deps,
    environmentRoutes.setOvertakenRoute,
    ({ project, params, body, caller }) =>
      setOvertaken(deps, project, params.environment ?? '', body.overtaken, caller),
  );
  serveEnvironment(app, deps, environmentRoutes.promoteRoute, (call) =>
    promote(deps, call, { ...call.body, reason: call.body.reason ?? null }),
  );
  serveEnvironment(app, deps, environmentRoutes.rollBackRoute, (call) =>
    rollBack(deps, call, { ...call.body, to: call.body.to ?? null }),
  );
  serveProject(app, deps, environmentRoutes.liftHoldRoute, ({ project, params, body, caller }) =>
    liftHold(deps, project, params.environment ?? '', body.generation, caller),
  );
}
