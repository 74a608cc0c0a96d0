import { visitRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { serve } from '../http/serve-route.ts';
import { viewVisits } from '../visits/view-visits.ts';

/** Serves what visitors asked of environments. */
export function serveVisits(app: Express, deps: Deps): void {
  serve(app, deps, visitRoutes.showVisitsRoute, ({ project, params }) =>
    viewVisits(deps, project, params.environment),
  );
}
