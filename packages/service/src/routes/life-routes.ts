import { lifeRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { serve } from '../http/serve-route.ts';
import { endProject, tryEnd } from '../setup/end-project.ts';
import { renameProject, tryRename } from '../setup/rename-project.ts';
import { viewProject } from '../views/view-project.ts';

/** Serves what becomes of a project as a whole: its name, and its end. */
export function serveProjectLife(app: Express, deps: Deps): void {
  serve(app, deps, lifeRoutes.tryRenameRoute, async ({ project, body }) => ({
    says: [...(await tryRename(deps, project, body.name))],
  }));
  serve(app, deps, lifeRoutes.renameRoute, async ({ project, body, caller }) =>
    viewProject(deps, await renameProject(deps, project, body, caller)),
  );
  serve(app, deps, lifeRoutes.tryEndProjectRoute, async ({ project }) => ({
    says: [...(await tryEnd(deps, project))],
  }));
  serve(app, deps, lifeRoutes.endProjectRoute, async ({ project, body, caller }) => ({
    name: project.name,
    endedAt: await endProject(deps, project, body, caller),
  }));
}
