import { auditRoutes, projectRoutes, recipeRoutes } from '@vaquero/contracts';
import type { Digest, Instant } from '@vaquero/core';
import { and, desc, eq, lt } from 'drizzle-orm';
import type { Express } from 'express';
import { logEntries } from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import { serveCaller, serveProject } from '../http/serve-route.ts';
import { whenClosed } from '../http/when-closed.ts';
import { maySee } from '../people/caller.ts';
import { whileSignedIn } from '../people/while-signed-in.ts';
import { acceptRecipe, showRecipe } from '../recipes/accept-recipe.ts';
import type { Doorbell } from '../refs/doorbell.ts';
import { makeProject } from './make-project.ts';
import { allProjects } from './project-rows.ts';
import { viewProject } from './view-project.ts';

/** Serves projects, their recipes, their log entries and the stream of what changes in them. */
export function serveProjects(app: Express, deps: Deps, doorbell: Doorbell): void {
  serveCaller(app, deps, projectRoutes.listProjectsRoute, async ({ caller }) => {
    const seen = (await allProjects(deps.db)).filter((project) => maySee(caller, project.id));
    return Promise.all(seen.map((project) => viewProject(deps, project)));
  });
  serveCaller(app, deps, projectRoutes.makeProjectRoute, ({ body, caller }) =>
    makeProject(deps, doorbell, body, caller),
  );
  serveProject(app, deps, projectRoutes.showProjectRoute, ({ project }) =>
    viewProject(deps, project),
  );
  serveProject(app, deps, projectRoutes.lookRoute, async ({ project, caller }) => {
    await doorbell.ringAndWait(project.repositoryId, { kind: 'person', doing: caller.doing });
    return viewProject(deps, project);
  });
  serveProject(app, deps, recipeRoutes.showRecipeRoute, ({ project }) => showRecipe(deps, project));
  serveProject(app, deps, recipeRoutes.acceptRecipeRoute, ({ project, body, caller }) =>
    acceptRecipe(deps, project, body, caller),
  );
  serveProject(app, deps, auditRoutes.auditRoute, async ({ project, query }) => {
    const rows = await deps.db
      .select()
      .from(logEntries)
      .where(
        and(
          eq(logEntries.projectId, project.id),
          lt(logEntries.position, query.before ?? Number.MAX_SAFE_INTEGER),
        ),
      )
      .orderBy(desc(logEntries.position))
      .limit(query.limit + 1);
    const entries = rows.slice(0, query.limit).map((row) => ({
      position: row.position,
      at: row.at as Instant,
      kind: row.kind,
      bytes: row.bytes,
      leaf: row.leaf as Digest,
    }));
    return { entries, more: rows.length > query.limit };
  });
  serveProject(app, deps, auditRoutes.eventsRoute, async ({ project, caller, res }) => {
    whileSignedIn(deps, caller, res);
    res.writeHead(200, {
      'content-type': 'text/event-stream; charset=utf-8',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    });
    res.write(': what changes in this project\n\n');
    const quit = deps.events.listen(project.id, (event) =>
      res.write(`data: ${JSON.stringify(event)}\n\n`),
    );
    const alive = setInterval(() => res.write(': alive\n\n'), 15_000);
    await new Promise<void>((resolve) => whenClosed(res, resolve));
    clearInterval(alive);
    quit();
    return undefined;
  });
}
