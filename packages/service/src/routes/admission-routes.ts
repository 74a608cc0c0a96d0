import { admissionRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import { givePass } from '../admission/give-pass.ts';
import { closeLink, lendLink } from '../admission/lend-link.ts';
import type { Deps } from '../base/deps.ts';
import { serve } from '../http/serve-route.ts';

/** Serves what lets people and programs see sites that are not for everybody. */
export function serveAdmission(app: Express, deps: Deps): void {
  serve(app, deps, admissionRoutes.passRoute, ({ caller, body }) => givePass(deps, caller, body));
  serve(app, deps, admissionRoutes.lendRoute, ({ project, params, caller }) =>
    lendLink(deps, { project, name: params.environment, caller }),
  );
  serve(app, deps, admissionRoutes.closeLinkRoute, async ({ project, params, caller }) => {
    await closeLink(deps, { project, name: params.environment, caller });
    return null;
  });
}
