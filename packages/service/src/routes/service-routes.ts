import { type ServiceSeen, serviceRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { serve } from '../http/serve-route.ts';
import { requireWhole } from '../people/caller.ts';
import { membersOfKind } from '../people/people-rows.ts';
import {
  endService,
  endServiceToken,
  makeService,
  requireAsHigh,
  requireService,
  roleOfService,
} from '../people/services.ts';
import { makeTokenWith } from '../people/sign-in.ts';
import { tokensOf } from '../people/token-rows.ts';
import { readScope, viewScopes } from '../people/token-scope.ts';
import { plainToken } from '../people/view-token.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { neverAgain, serveAct } from './serve-act.ts';

/** Serves the services of a project and their tokens. */
export function serveServices(app: Express, deps: Deps): void {
  serve(app, deps, serviceRoutes.listServicesRoute, ({ project }) => viewServices(deps, project));
  serve(app, deps, serviceRoutes.makeServiceRoute, async ({ project, params, body, caller }) => {
    await makeService(deps, { project, name: params.service, caller, ...body });
    return viewServices(deps, project);
  });
  serve(app, deps, serviceRoutes.endServiceRoute, async ({ project, params, caller }) => {
    await endService(deps, { project, name: params.service, caller });
    return viewServices(deps, project);
  });
  serve(app, deps, serviceRoutes.endServiceTokenRoute, async ({ project, params, caller }) => {
    const { service: name, token } = params;
    await endServiceToken(deps, { project, name, caller, token });
    return viewServices(deps, project);
  });
  serveAct(
    app,
    deps,
    serviceRoutes.makeServiceTokenRoute,
    async ({ project, params, body, caller }, note) => {
      requireWhole(caller, 'make another one');
      const service = await requireService(deps.db, project, params.service);
      const role = await roleOfService(deps.db, project, service);
      // Who makes a token could use it.
      await requireAsHigh(deps.db, caller, project, service);
      if (role === null)
        return refused({ code: 'not-found', what: 'role of service', name: params.service });
      const { name, days, environments } = body;
      const scope = await readScope(deps, caller, { projects: [project.name], role, environments });
      const wanted = { name, kind: 'all' as const, days, scope };
      // It is the project's: neither the end of what its maker came in by ends it, nor the maker's leaving.
      const [done, token] = await makeTokenWith(
        deps,
        { person: { id: service.id }, wanted, doing: caller.doing, made: null },
        (tx, { id }) => note(tx, id),
      );
      const [seen] = await viewScopes(deps, [token]);
      return [done, { ...plainToken(token, seen ?? null), secret: token.secret }] as const;
    },
    neverAgain,
  );
}

async function viewServices(deps: Deps, project: ProjectRow): Promise<{ services: ServiceSeen[] }> {
  const all = await membersOfKind(deps.db, 'service', project.id);
  return {
    services: await Promise.all(
      all.map(async (service) => {
        const [role, tokens] = await Promise.all([
          roleOfService(deps.db, project, service),
          tokensOf(deps.db, service.id, deps.clock()),
        ]);
        const scopes = await viewScopes(deps, tokens);
        return {
          name: service.name,
          shownAs: service.shownAs,
          role,
          tokens: tokens.map((token, place) => plainToken(token, scopes[place] ?? null)),
        };
      }),
    ),
  };
}
