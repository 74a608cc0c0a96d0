import { credentialRoutes, projectRoutes, recipeRoutes, sourceRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { serve } from '../http/serve-route.ts';
import { maySee } from '../people/caller.ts';
import { allProjects, projectByName } from '../projects/project-rows.ts';
import { acceptRecipe, showRecipe } from '../recipes/accept-recipe.ts';
import { commitRecipe } from '../recipes/commit-recipe.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { makeKey } from '../setup/access-key.ts';
import { makeProject } from '../setup/make-project.ts';
import { moveRepository } from '../setup/move-repository.ts';
import {
  makeProjectKey,
  setCredential,
  setKey,
  takeBackCredential,
} from '../setup/repository-credential.ts';
import { changeSource, trySource, viewSource } from '../setup/source.ts';
import { tryProject } from '../setup/try-project.ts';
import { viewProject } from '../views/view-project.ts';
import { serveAct } from './serve-act.ts';

/** Serves projects and their recipes. */
export function serveProjects(app: Express, deps: Deps, doorbell: Doorbell): void {
  serve(app, deps, projectRoutes.listProjectsRoute, async ({ caller, query }) => {
    const { after = '', limit } = query;
    const behind = (await allProjects(deps.db)).filter(
      ({ id, name }) => name > after && maySee(caller, id),
    );
    const page = behind.slice(0, limit);
    const projects = await Promise.all(page.map((project) => viewProject(deps, project)));
    return { projects, more: behind.length > limit };
  });
  serveAct(
    app,
    deps,
    projectRoutes.makeProjectRoute,
    ({ body, caller }, done) => makeProject(deps, doorbell, { ...body, caller }, done),
    async (_call, name) =>
      viewProject(
        deps,
        (await projectByName(deps.db, name)) ??
          refused({ code: 'not-found', what: 'project', name }),
      ),
  );
  serve(app, deps, projectRoutes.tryProjectRoute, ({ body }) => tryProject(deps, body));
  serve(app, deps, projectRoutes.showProjectRoute, ({ project }) => viewProject(deps, project));
  serve(app, deps, projectRoutes.moveRepositoryRoute, async ({ project, body, caller }) => {
    await moveRepository(deps, doorbell, project, { ...body, caller });
    return viewProject(deps, project);
  });
  serve(app, deps, projectRoutes.lookRoute, async ({ project, caller }) => {
    await doorbell.ringAndWait(project.repositoryId, { kind: 'person', doing: caller.doing });
    return viewProject(deps, project);
  });
  serve(app, deps, credentialRoutes.setCredentialRoute, ({ project, body, caller }) =>
    setCredential(deps, doorbell, project, body, caller),
  );
  serve(app, deps, credentialRoutes.makeKeyRoute, ({ body, caller }) =>
    makeKey(deps, body.url, caller.personId),
  );
  serve(app, deps, credentialRoutes.makeProjectKeyRoute, ({ project, caller }) =>
    makeProjectKey(deps, project, caller),
  );
  serve(app, deps, credentialRoutes.confirmKeyRoute, ({ project, body, caller }) =>
    setKey(deps, doorbell, project, body, caller),
  );
  serve(app, deps, credentialRoutes.dropCredentialRoute, async ({ project, caller }) => {
    await takeBackCredential(deps, project, caller);
    return null;
  });
  serve(app, deps, sourceRoutes.showSourceRoute, ({ project }) => viewSource(deps, project));
  serve(app, deps, sourceRoutes.trySourceRoute, ({ project, body }) =>
    trySource(deps, project, body),
  );
  serve(app, deps, sourceRoutes.setSourceRoute, ({ project, body, ...call }) =>
    changeSource(deps, project, body, call),
  );
  serve(app, deps, recipeRoutes.showRecipeRoute, ({ project }) => showRecipe(deps, project));
  serve(app, deps, recipeRoutes.commitRecipeRoute, ({ project, body, caller }) =>
    commitRecipe(deps, doorbell, project, { ...body, caller }),
  );
  serve(app, deps, recipeRoutes.acceptRecipeRoute, ({ project, body, ...call }) =>
    acceptRecipe(deps, project, body, call),
  );
}
