import * as admissionRoutes from './admission/admission-routes.ts';
import * as comparisonRoutes from './artifacts/comparison-routes.ts';
import * as storeRoutes from './artifacts/store-routes.ts';
import * as auditRoutes from './audit/audit-routes.ts';
import * as buildRoutes from './builds/build-routes.ts';
import * as runnerRoutes from './builds/runner-routes.ts';
import * as environmentRoutes from './environments/environment-routes.ts';
import * as previewRoutes from './environments/preview-routes.ts';
import * as evidenceRoutes from './evidence/evidence-routes.ts';
import * as roleRoutes from './http/role-routes.ts';
import type { AnyRoute } from './http/route.ts';
import * as mapRoutes from './map/map-routes.ts';
import * as elsewhereRoutes from './people/elsewhere-routes.ts';
import * as groupRoutes from './people/group-routes.ts';
import * as mailRoutes from './people/mail-routes.ts';
import * as memberRoutes from './people/member-routes.ts';
import * as passwordLinkRoutes from './people/password-link-routes.ts';
import * as peopleRoutes from './people/people-routes.ts';
import * as secondFactorRoutes from './people/second-factor-routes.ts';
import * as serviceRoutes from './people/service-routes.ts';
import * as pictureRoutes from './pictures/picture-routes.ts';
import * as credentialRoutes from './projects/credential-routes.ts';
import * as favouriteRoutes from './projects/favourite-routes.ts';
import * as lifeRoutes from './projects/life-routes.ts';
import * as projectRoutes from './projects/project-routes.ts';
import * as sourceRoutes from './projects/source-routes.ts';
import * as recipeRoutes from './recipes/recipe-routes.ts';
import * as pullRequestRoutes from './refs/pull-request-routes.ts';
import * as edgeRoutes from './releases/edge-routes.ts';
import * as variableRoutes from './variables/variable-routes.ts';
import * as visitRoutes from './visits/visit-routes.ts';

const groups: readonly object[] = [
  auditRoutes,
  peopleRoutes,
  groupRoutes,
  memberRoutes,
  elsewhereRoutes,
  mailRoutes,
  passwordLinkRoutes,
  secondFactorRoutes,
  serviceRoutes,
  projectRoutes,
  favouriteRoutes,
  lifeRoutes,
  credentialRoutes,
  sourceRoutes,
  recipeRoutes,
  pullRequestRoutes,
  buildRoutes,
  evidenceRoutes,
  comparisonRoutes,
  pictureRoutes,
  storeRoutes,
  environmentRoutes,
  previewRoutes,
  mapRoutes,
  admissionRoutes,
  visitRoutes,
  variableRoutes,
  runnerRoutes,
  edgeRoutes,
  roleRoutes,
];

/** Every route that is declared, by its name. */
export const everyRoute: readonly (readonly [name: string, route: AnyRoute])[] = groups.flatMap(
  (group) =>
    Object.entries(group)
      .filter(([name]) => name.endsWith('Route'))
      .map(([name, route]) => [name, route as AnyRoute] as const),
);
