import { projectRoutes, recipeRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../deps.ts';
import { serveCaller, serveProject } from '../http/serve-route.ts';
import { maySee } from '../people/caller.ts';
import { acceptRecipe, showRecipe } from '../recipes/accept-recipe.ts';
import type { Doorbell } from '../refs/doorbell.ts';
import { makeProject } from './make-project.ts';
import { allProjects } from './project-rows.ts';
import { viewProject } from './view-project.ts';

/** Serves projects and their recipes. */
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
}
