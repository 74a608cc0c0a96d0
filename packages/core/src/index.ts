export {
  compareFiles,
  type FileChange,
  type FilesCompared,
  isPage,
} from './artifacts/compare-files.ts';
export {
  encodeManifest,
  type Manifest,
  manifestFault,
  manifestFormats,
  manifestOf,
  rulesOfManifest,
  type SiteFile,
  sizeOf,
} from './artifacts/manifest.ts';
export { mayBeSite, type SiteFolder, siteFolders } from './artifacts/site-folders.ts';
export {
  compareBytes,
  type PathFault,
  readSitePath,
  type SitePath,
} from './artifacts/site-path.ts';
export {
  type DecisionFacts,
  type DecisionKind,
  kindsThat,
  type MadeDecision,
  type PartOfProject,
  traits,
  traitsOf,
} from './audit/decisions.ts';
export {
  type Actor,
  canonical,
  encodeEntry,
  type Json,
  type LogEntry,
  leafHash,
  type ReadEntry,
  readEntry,
} from './audit/log-entry.ts';
export { type Brand, brandOf, brandPaths, hueNames } from './brands/brand-of.ts';
export {
  type BuildFailure,
  type FailureInWords,
  failureInWords,
  faultInWords,
  type StepEnd,
} from './builds/build-failure.ts';
export { type BuildState, buildStates, isOpen } from './builds/build-state.ts';
export { type CauseRule, causeOf, causeRules, type StepSituation } from './builds/cause-rules.ts';
export { type ChartRow, type Descent, descents } from './builds/chart-rows.ts';
export {
  criticalPath,
  type TimedStep,
  type UsualTime,
  usualTime,
} from './builds/critical-path.ts';
export {
  type LockDifference,
  type LockedPackages,
  lockDifferences,
} from './builds/locked-packages.ts';
export { type LogSegment, type SaidLine, saidLines } from './builds/log-lines.ts';
export {
  cutLog,
  endsOfLines,
  LinesOfPieces,
  type LogStretch,
  type PlacedLine,
} from './builds/log-pieces.ts';
export { nextInQueue, type Shares, suits, type Waiting } from './builds/next-in-queue.ts';
export { forecastQueue, type QueuePlace, type RunnerNow } from './builds/queue-forecast.ts';
export { brandedBy, type Find, readFind } from './builds/read-find.ts';
export { siblingInWords } from './builds/sibling-in-words.ts';
export { type Expected, forecastSteps } from './builds/step-forecast.ts';
export {
  looksFor,
  mostLooks,
  readsOf,
  type StepInputs,
  stepKeyText,
  type TreeFile,
} from './builds/step-key.ts';
export { areForOthers, tellingBuild } from './builds/telling-build.ts';
export { type LogLine, tellingLine } from './builds/telling-line.ts';
export { type BuildInputs, whyInputsDiffer } from './builds/why-inputs-differ.ts';
export { commaList } from './comma-list.ts';
export { controlFault, controlFaultsIn } from './control-characters.ts';
export { counted } from './counted.ts';
export { allow, type Decision, refuse } from './decision.ts';
export * from './digest.ts';
export {
  decideAutomaticDeploy,
  decideEntry,
  decideLetIn,
  decidePromotion,
  decideRollback,
  type EnvironmentNow,
  findWayBack,
  type Hold,
  type Offer,
  type Promotion,
  type RollbackTarget,
  type Seen,
  type Served,
  type ServedBefore,
  type WayBack,
} from './environments/decide-move.ts';
export {
  countFindings,
  type Finding,
  findingCounts,
  findingInWords,
  type Severity,
  severities,
  worstFirst,
} from './evidence/finding.ts';
export { findingsThatDiffer } from './evidence/findings-that-differ.ts';
export { inspect } from './evidence/inspect.ts';
export type { FileFacts, Inspected, Reference } from './evidence/inspected.ts';
export {
  holdingByDefault,
  type InspectionRule,
  inspectionRules,
} from './evidence/inspection-rules.ts';
export { type ProvenanceFacts, provenanceStatement, stamp } from './evidence/provenance.ts';
export { targetOf } from './evidence/reference-target.ts';
export {
  flakyTests,
  type TestCase,
  type TestReport,
  type TestRun,
  testReport,
} from './evidence/test-report.ts';
export { type Instant, later, readInstant } from './instant.ts';
export {
  type Band,
  type BandLayout,
  type BandWords,
  bandsOf,
  type ChartWindow,
  type LaneDeploy,
  type RailStretch,
  railOf,
  type Scale,
  type Thread,
  threadsBetween,
} from './lanes/bands.ts';
export { type PlacedWords, placeWords, type WantedWords } from './lanes/place-words.ts';
export { type AxisTick, axisStep, axisTicks } from './lanes/ticks.ts';
export { errorForLog, redactedPaths, withoutSecrets } from './log-form.ts';
export {
  type MapFault,
  mapFaults,
  mapWarnings,
  newMapFaults,
  type RefSeen,
  ruleAfter,
  rulesGone,
} from './map/check-map.ts';
export {
  compareMaps,
  compareRules,
  type MapDifference,
  type Present,
  type RefMoves,
} from './map/compare-maps.ts';
export { compareRights, type RightsMove } from './map/compare-rights.ts';
export { defaultMap } from './map/default-map.ts';
export {
  acceptsFrom,
  admitsOf,
  type DeliveryMap,
  type Entrance,
  type EnvironmentRule,
  entranceOf,
  entrances,
  type Family,
  type Following,
  isTop,
  outsidersBuilt,
  refsInWords,
  ruleInWords,
  ruleNamed,
  shownBy,
  sourceOf,
} from './map/delivery-map.ts';
export {
  answersTo,
  builtOnWord,
  type Destination,
  destinationOf,
  neverBuiltBy,
  shutInBy,
  wantedBy,
  wants,
} from './map/destinations.ts';
export { type DrawnMap, type DrawnRule, drawMap } from './map/draw-map.ts';
export { decideKeep, endOf, isEndingSoon, type Lasting } from './map/family-end.ts';
export { familyName } from './map/family-name.ts';
export {
  type Acting,
  type ActsAllowed,
  isAmong,
  type MapAct,
  mapActs,
  type WhoMay,
  whoInWords,
  whoMay,
} from './map/map-rights.ts';
export {
  type Deed,
  deeds,
  type Member,
  type Reach,
  type RefReaching,
  reachOf,
  type Way,
  wayOf,
  ways,
} from './map/reach.ts';
export { spanInWords } from './map/span-in-words.ts';
export {
  type Due,
  type Ended,
  type EndedBecause,
  endedInWords,
  type Head,
  type Living,
  makesRoom,
  whatLives,
} from './map/what-lives.ts';
export { stopsOf } from './map/what-stops.ts';
export { type Author, authorInWords } from './people/author-in-words.ts';
export {
  decideGrant,
  decideInvitation,
  decideName,
  decideNewcomer,
  decidePassword,
  leastLetters,
  roleIn,
} from './people/grants.ts';
export {
  type Ability,
  abilities,
  type Grant,
  type HeldGrant,
  leastRoleFor,
  type MemberKind,
  may,
  memberKinds,
  type ProjectRole,
  projectRoles,
  type Role,
  roles,
} from './people/may.ts';
export { actingGrants, narrowed, type Scope, type ScopedPlace } from './people/scope.ts';
export { scopeInWords } from './people/scope-in-words.ts';
export { isFactorDemanded, readFactorCode, recoveryWord } from './people/second-factor.ts';
export {
  mostPictured,
  type PageToPicture,
  pagesToPicture,
} from './pictures/pages-to-picture.ts';
export {
  addressOfPage,
  type PagePictured,
  type PicturesState,
  picturesInWords,
  pixelsInWords,
} from './pictures/pictures-in-words.ts';
export { candidateFolders } from './projects/candidate-folders.ts';
export { type LanguageShare, languageShares } from './projects/languages.ts';
export { type Need, needKinds, needsOf, type PlaceNow, type ProjectNow } from './projects/needs.ts';
export { freeNamesNear, type ProjectName, readProjectName } from './projects/project-name.ts';
export {
  folderInWords,
  type ProjectSource,
  readFolder,
  type SourceMove,
  sourceMoveInWords,
} from './projects/source-move.ts';
export { readSshAddress, type SshAddress } from './projects/ssh-address.ts';
export { borrowStep } from './recipes/borrow-step.ts';
export { graphFaults, type RecipeFault, readFaults, stepsBefore } from './recipes/check-recipe.ts';
export type { CommitView, FolderView, PackageView, WishedNode } from './recipes/commit-view.ts';
export { type Chosen, isForRef, planFor, recipesFor } from './recipes/for-ref.ts';
export { configFiles, type Generator, generators, isOwnWork } from './recipes/generators.ts';
export { cleanPath, fixedPart, isPattern, matchesName, matchesPath } from './recipes/glob.ts';
export { installerFor } from './recipes/installing.ts';
export { type GraphFault, orderSteps } from './recipes/order-steps.ts';
export { managerFiles } from './recipes/package-manager.ts';
export { programsOf, toolsFor, toolsOfRecipe } from './recipes/programs.ts';
export {
  type Candidate,
  type Proposal,
  proposeRecipe,
  withFolder,
  withOutput,
} from './recipes/propose-recipe.ts';
export * from './recipes/recipe.ts';
export { type RecipeDifference, recipeDifferences } from './recipes/recipe-differences.ts';
export { belowFolder, rootedPlan, seenPaths } from './recipes/rooted-plan.ts';
export { toolPrograms, withTools } from './recipes/with-tools.ts';
export { type MovedRef, movedRefs } from './refs/moved-refs.ts';
export * from './refs/pull-request.ts';
export { pushedRefFault } from './refs/pushed-ref.ts';
export {
  branchOf,
  type CommitId,
  type RefName,
  readCommitId,
  readRefName,
  refOfBranch,
  tagOf,
} from './refs/ref-name.ts';
export type { DocumentFault, Refusal, RefusalCode, RefusalFields } from './refusal.ts';
export {
  type DeployKind,
  deployKinds,
  type LedgerEntry,
  liveAt,
  liveForMs,
  undoneNumbers,
} from './releases/ledger.ts';
export { readAddress } from './serving/address.ts';
export {
  type Admits,
  admissionPath,
  admissions,
  type Pass,
  passHolds,
  passLastsMs,
  passText,
  readPass,
  returnPath,
  strictest,
  writePass,
} from './serving/admission.ts';
export { type ArtifactAddress, readArtifactHost } from './serving/artifact-host.ts';
export { hostName, schemeOf } from './serving/host-name.ts';
export { missedBase } from './serving/missed-base.ts';
export { type RecordChanges, withChanges } from './serving/record-changes.ts';
export { type Answer, makeResolver, type Resolver, withQuery } from './serving/resolve-path.ts';
export { ruleFaults } from './serving/rule-faults.ts';
export { rulesInWords } from './serving/rules-in-words.ts';
export { type AddressRules, rulesOf, type ServingRules } from './serving/serving-rules.ts';
export { type FieldsAt, makeFields, makeImmutable } from './serving/site-headers.ts';
export { type TriedAddress, triedAddresses } from './serving/tried-addresses.ts';
export { shellWord } from './shell-word.ts';
export { terminalText } from './terminal-text.ts';
export {
  comparePages,
  type PageLine,
  type PagesCompared,
  type PageTexts,
} from './texts/compare-pages.ts';
export { type ComparedLine, compareTexts } from './texts/compare-texts.ts';
export { type Figures, type Rates, rateInWords, ratesOf, shareInWords } from './visits/figures.ts';
export { callFilter } from './walls/call-filter.ts';
export { type Processor, refusedArguments, refusedCalls } from './walls/refused-calls.ts';
