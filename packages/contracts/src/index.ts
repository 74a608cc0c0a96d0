export * as admissionRoutes from './admission/admission-routes.ts';
export type { ComparisonReply } from './artifacts/comparison-routes.ts';
export * as comparisonRoutes from './artifacts/comparison-routes.ts';
export * as storeRoutes from './artifacts/store-routes.ts';
export type { ProjectEvent } from './audit/audit-routes.ts';
export * as auditRoutes from './audit/audit-routes.ts';
export * as buildRoutes from './builds/build-routes.ts';
export { failureOfRunner } from './builds/runner-failure.ts';
export type { RunnerSeen } from './builds/runner-routes.ts';
export * as runnerRoutes from './builds/runner-routes.ts';
export * as environmentRoutes from './environments/environment-routes.ts';
export type { PreviewSeen, PreviewsReply } from './environments/preview-routes.ts';
export * as previewRoutes from './environments/preview-routes.ts';
export { everyRoute } from './every-route.ts';
export type { InspectionReply } from './evidence/evidence-routes.ts';
export * as evidenceRoutes from './evidence/evidence-routes.ts';
export { findingsOf } from './evidence/findings-of.ts';
export {
  asSent,
  CallRefused,
  type Client,
  type ClientOptions,
  makeClient,
  ServiceUnreachable,
} from './http/client.ts';
export { type ParamsOf, paramNames, pathParams } from './http/path-params.ts';
export type {
  AttemptGiven,
  EdgeOrder,
  RoutingEntry,
  RoutingTable,
  StepReport,
} from './http/role-routes.ts';
export * as roleRoutes from './http/role-routes.ts';
export { type Access, type AnyRoute, pathOf, type Route, refusalsOf, route } from './http/route.ts';
export type {
  MapDifferenceSeen,
  MapReply,
  MapVersionsReply,
  ReachReply,
  WhyReply,
} from './map/map-routes.ts';
export * as mapRoutes from './map/map-routes.ts';
export { mapJsonSchema, mapKeys, placeWarnings, readMap, readNewMap } from './map/read-map.ts';
export * as elsewhereRoutes from './people/elsewhere-routes.ts';
export type { GroupSeen } from './people/group-routes.ts';
export * as groupRoutes from './people/group-routes.ts';
export type { MailAddresses } from './people/mail-routes.ts';
export * as mailRoutes from './people/mail-routes.ts';
export type { MembersReply } from './people/member-routes.ts';
export * as memberRoutes from './people/member-routes.ts';
export * as passwordLinkRoutes from './people/password-link-routes.ts';
export type { TokenSeen } from './people/people-routes.ts';
export * as peopleRoutes from './people/people-routes.ts';
export * as secondFactorRoutes from './people/second-factor-routes.ts';
export type { ServiceSeen } from './people/service-routes.ts';
export * as serviceRoutes from './people/service-routes.ts';
export type { PagesTaken, PicturesGiven, PicturesSeen } from './pictures/picture-routes.ts';
export * as pictureRoutes from './pictures/picture-routes.ts';
export * as credentialRoutes from './projects/credential-routes.ts';
export { everyProject } from './projects/every-project.ts';
export * as favouriteRoutes from './projects/favourite-routes.ts';
export * as lifeRoutes from './projects/life-routes.ts';
export type { FirstSight, ProjectTrial } from './projects/project-routes.ts';
export * as projectRoutes from './projects/project-routes.ts';
export type { SourceReply, SourceTrial } from './projects/source-routes.ts';
export * as sourceRoutes from './projects/source-routes.ts';
export { placeFaults, readRecipe } from './recipes/read-recipe.ts';
export * as recipeRoutes from './recipes/recipe-routes.ts';
export { recipeJsonSchema, recipeOf, recipeSchema } from './recipes/recipe-schema.ts';
export { writeRecipe } from './recipes/write-recipe.ts';
export type { PullRequestReply, PullRequestSeen } from './refs/pull-request-routes.ts';
export * as pullRequestRoutes from './refs/pull-request-routes.ts';
export {
  faultText,
  type Problem,
  problemOf,
  type RefusalInWords,
  refusalCatalogue,
  refusalInWords,
} from './refusals.ts';
export type { EdgeSeen } from './releases/edge-routes.ts';
export * as edgeRoutes from './releases/edge-routes.ts';
export type {
  BuildReply,
  BuildRow,
  DeploySeen,
  EnvironmentSeen,
  HoldSeen,
  LaneReply,
  Me,
  MoveReply,
  ProjectSeen,
  RecipeReply,
} from './replies.ts';
export type { VariablesReply } from './variables/variable-routes.ts';
export * as variableRoutes from './variables/variable-routes.ts';
export { headersOfRole, protocol, protocolHeader, version } from './version.ts';
export type { DeployVisits, VisitsReply } from './visits/visit-routes.ts';
export * as visitRoutes from './visits/visit-routes.ts';
export * as vocabulary from './vocabulary.ts';
