export { type Instant, later, readInstant } from './instant.ts';
export { type Digest, type Sha256, hostLabelOf, readDigest, readHostLabel } from './digest.ts';
export { type Decision, allow, refuse } from './decision.ts';
export type { DocumentFault, Refusal, RefusalCode, RefusalFields } from './refusal.ts';
export { type ProjectName, freeNamesNear, readProjectName } from './projects/project-name.ts';
export { type CommitId, type RefName, branchOf, readCommitId, readRefName, refOfBranch } from './refs/ref-name.ts';
export { type MovedRef, movedRefs } from './refs/moved-refs.ts';
export { type DeliveryMap, type Destination, type EnvironmentRule, acceptsFrom, destinationOf, mapOne } from './map/map-one.ts';
export { type Ability, type Grant, type Role, abilities, abilityToChange, leastRoleFor, may, roles } from './people/may.ts';
export { type Actor, type Json, type LogEntry, canonical, encodeEntry, leafHash } from './audit/log-entry.ts';
export { type PathFault, type SitePath, compareBytes, readSitePath } from './artifacts/site-path.ts';
export { type Manifest, type ServingRules, type SiteFile, encodeManifest, manifestOf, sizeOf } from './artifacts/manifest.ts';
export { type SiteFolder, siteFolders } from './artifacts/site-folders.ts';
export { type Recipe, type RecipeSource, type RecipeStep, type Serve, recipeFileName } from './recipes/recipe.ts';
export { type GraphFault, orderSteps } from './recipes/order-steps.ts';
export { type CommitView, type Proposal, proposeRecipe, withFolder } from './recipes/propose-recipe.ts';
export { type RecipeDifference, recipeDifferences } from './recipes/recipe-differences.ts';
export { type BuildFailure, type FailureInWords, type StepEnd, failureInWords, faultInWords } from './builds/build-failure.ts';
export { type LogLine, tellingLine } from './builds/telling-line.ts';
export { type BuildState, buildStates, isOpen } from './builds/build-state.ts';
export { type Brand, brandOf, brandPaths, hueNames } from './brands/brand-of.ts';
export { type Answer, resolvePath } from './serving/resolve-path.ts';
export { type DeployKind, type LedgerEntry, deployKinds, liveAt, liveForMs, undoneNumbers } from './releases/ledger.ts';
export {
  type EnvironmentNow, type Hold, type Promotion, type Seen, type Served, type WayBack,
  decideAutomaticDeploy, decidePromotion, decideRollback, findWayBack,
} from './environments/decide-move.ts';
export { type Band, type BandWords, type ChartWindow, type LaneDeploy, type RailStretch, type Scale, type Thread, bandsOf, railOf, threadsBetween } from './lanes/bands.ts';
export { type PlacedWords, type WantedWords, placeWords } from './lanes/place-words.ts';
export { type DayTick, dayTicks } from './lanes/ticks.ts';
