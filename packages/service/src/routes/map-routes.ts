import { mapRoutes, readNewMap } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import { inTransaction } from '../database/transaction.ts';
import { lockEnvironments } from '../environments/environment-rows.ts';
import { endEnvironment } from '../environments/family-rows.ts';
import { setMap } from '../families/set-map.ts';
import { serve } from '../http/serve-route.ts';
import { viewVersions } from '../map/view-versions.ts';
import { lockProject } from '../projects/project-rows.ts';
import { answerWhy } from '../refs/answer-why.ts';
import { publishTable } from '../routing/publish-table.ts';
import { tryMap, viewMap } from '../views/view-map.ts';
import { viewReach } from '../views/view-reach.ts';

/** Serves maps: shown, tried, set, their versions, and why a ref goes where it goes. */
export function serveMaps(app: Express, deps: Deps): void {
  serve(app, deps, mapRoutes.showMapRoute, ({ project }) => viewMap(deps, project));
  serve(app, deps, mapRoutes.setMapRoute, ({ project, body, ...call }) =>
    setMap(deps, project, body, call),
  );
  serve(app, deps, mapRoutes.tryMapRoute, ({ project, body }) =>
    tryMap(
      deps,
      project,
      body.text,
      orRefuse(readNewMap(body.text, project.mapVersion + 1, project.branch)),
    ),
  );
  serve(app, deps, mapRoutes.mapVersionsRoute, ({ project }) => viewVersions(deps, project));
  serve(app, deps, mapRoutes.whyRoute, ({ project, query }) => answerWhy(deps, project, query.ref));
  serve(app, deps, mapRoutes.reachRoute, ({ project }) => viewReach(deps, project));
  serve(app, deps, mapRoutes.endEnvironmentRoute, async ({ project, environment, caller }) => {
    if (environment.ref === null)
      return refused({ code: 'not-a-family', environment: environment.name });
    await inTransaction(deps.db, async (tx) => {
      await lockProject(tx, project.id);
      const row = (await lockEnvironments(tx, [environment.id])).get(environment.id);
      // Twice is once.
      if (row?.living !== true) return;
      await endEnvironment(deps, tx, project, row, 'asked', caller.doing);
    });
    await deps.edges.confirmed(await publishTable(deps), 1_000);
    return null;
  });
}
