import { type PreviewSeen, previewRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { keepPreview } from '../families/keep-preview.ts';
import { serve } from '../http/serve-route.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { endedLately } from '../views/ended-preview-rows.ts';
import { viewPreviews } from '../views/view-previews.ts';

/** Serves the list of previews, and how long somebody keeps one. */
export function servePreviews(app: Express, deps: Deps): void {
  serve(app, deps, previewRoutes.listPreviewsRoute, async ({ project }) => {
    const [previews, ended] = await Promise.all([
      viewPreviews(deps, project),
      endedLately(deps, project.id),
    ]);
    return { now: deps.clock(), previews, ended: [...ended] };
  });
  serve(
    app,
    deps,
    previewRoutes.keepPreviewRoute,
    async ({ project, environment, body, caller }) => {
      await keepPreview(deps, project, environment, body, caller);
      return one(deps, project, environment.name);
    },
  );
  serve(app, deps, previewRoutes.keepNoLongerRoute, async ({ project, environment, caller }) => {
    await keepPreview(deps, project, environment, null, caller);
    return null;
  });
}

async function one(deps: Deps, project: ProjectRow, name: string): Promise<PreviewSeen> {
  const [found] = await viewPreviews(deps, project, (row) => row.name === name);
  return found ?? refused({ code: 'not-found', what: 'environment', name });
}
