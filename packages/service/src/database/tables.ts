import { buildRoutes, type roleRoutes } from '@vaquero/contracts';
import { type BuildFailure, buildStates, type Recipe, type RecipeSource } from '@vaquero/core';
import { sql } from 'drizzle-orm';
import {
  bigint,
  boolean,
  index,
  int,
  json,
  longtext,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { bytes, commitId, digest, id, instant, lease } from './columns.ts';
import type { Aim } from './kept-shapes.ts';
import { projects } from './repository-tables.ts';

export {
  evidence,
  fileFindings,
  inspections,
  provenances,
  stepResults,
  variables,
} from './build-tables.ts';

export { deploys, environments, holds, intakes } from './environment-tables.ts';

export { maps } from './map-tables.ts';

export {
  favourites,
  grants,
  groupMembers,
  identities,
  invitations,
  mailAddresses,
  passwordLinks,
  people,
  recoveryWords,
  secondFactors,
  sessions,
  signInRules,
  signInTries,
  tokens,
} from './people-tables.ts';

export { pictures } from './picture-tables.ts';

export { pullRequests, pullRequestVerdicts, pullRequestWords } from './pull-request-tables.ts';

export {
  acceptedRecipes,
  changes,
  formerNames,
  projects,
  refs,
  repositories,
  repositoryCredentials,
  repositoryKeys,
} from './repository-tables.ts';

export { lastingFiles, missedPaths, type Span, visits } from './serving-tables.ts';

type LogSegments = roleRoutes.LogSegments;

export const builds = mysqlTable(
  'builds',
  {
    id: id('id').primaryKey(),
    projectId: id('project_id')
      .notNull()
      .references(() => projects.id),
    number: int('number').notNull(),
    state: mysqlEnum('state', buildStates).notNull(),
    ref: varchar('ref', { length: 255 }).notNull(),
    commitId: commitId('commit_id').notNull(),
    subject: varchar('subject', { length: 500 }).notNull(),
    author: varchar('author', { length: 200 }).notNull(),
    /** The author's mail address, in small letters; null in builds from before it was kept. */
    authorMail: varchar('author_mail', { length: 254 }),
    committedAt: instant('committed_at').notNull(),
    cause: varchar('cause', { length: 300 }).notNull(),
    changeId: id('change_id'),
    /** Who pushed or asked for it; null where no person did, and in builds from before this was kept. */
    begunBy: id('begun_by'),
    recipe: json('recipe').$type<{ recipe: Recipe; source: RecipeSource } | null>(),
    /** The folder of the repository that it is of; null where the project never had another. */
    folder: varchar('folder', { length: 255 }),
    queuedAt: instant('queued_at').notNull(),
    startedAt: instant('started_at'),
    endedAt: instant('ended_at'),
    artifact: digest('artifact'),
    failure: json('failure').$type<BuildFailure | null>(),
    attempts: int('attempts').notNull().default(0),
    /** The keyed hash of all that its result hangs on; null before the recipe was resolved. */
    inputKey: digest('input_key'),
    /** The build whose artifact it took over. */
    reusedFrom: int('reused_from'),
    earlier: mysqlEnum('earlier', ['used', 'left', 'compared']).notNull().default('used'),
    priority: int('priority').notNull().default(0),
    /** The build of a newer commit that took its place. */
    overtakenBy: int('overtaken_by'),
    /** Labels that its runner must bear. */
    needs: json('needs').$type<readonly string[] | null>(),
    /** The name of its recipe; a project may have several. */
    recipeName: varchar('recipe_name', { length: 60 }).notNull().default('site'),
    /** Of a pull request's commit: the branch that it would be merged into. */
    proposedInto: varchar('proposed_into', { length: 250 }),
    /** Whose code it is. */
    trust: mysqlEnum('trust', ['trusted', 'outsider']).notNull().default('trusted'),
    /** Where the map sent its ref when it was noticed; null before maps were documents. */
    aim: json('aim').$type<Aim | null>(),
    /** The values that it is given, each as its keyed digest; null in builds from before these were kept. */
    variables: json('variables').$type<Readonly<Record<string, string>> | null>(),
    /** Somebody said of it that what it publishes may be that much smaller than what is live. */
    meant: boolean('meant').notNull().default(false),
  },
  (t) => [
    uniqueIndex('builds_number').on(t.projectId, t.number),
    index('builds_state').on(t.state, t.id),
    index('builds_input').on(t.projectId, t.inputKey),
    index('builds_recipe').on(t.projectId, t.recipeName, t.ref, t.number),
    index('builds_commit').on(t.projectId, t.commitId, t.number),
    // Whoever began one is told of its end.
    index('builds_begun').on(t.begunBy, t.endedAt),
    index('builds_artifact').on(t.projectId, t.artifact),
    index('builds_change').on(t.changeId),
  ],
);

export const attempts = mysqlTable(
  'attempts',
  {
    id: id('id').primaryKey(),
    buildId: id('build_id')
      .notNull()
      .references(() => builds.id),
    fence: int('fence').notNull(),
    runnerId: id('runner_id').notNull(),
    instance: id('instance').notNull(),
    credentialHash: digest('credential_hash').notNull(),
    state: mysqlEnum('state', ['running', 'passed', 'failed', 'lost', 'cancelled']).notNull(),
    leaseUntil: lease('lease_until').notNull(),
    logBytes: bigint('log_bytes', { mode: 'number' }).notNull().default(0),
    /** Its log is whole, and packed. */
    logKept: boolean('log_kept').notNull().default(false),
    tools: json('tools').$type<Readonly<Record<string, string>> | null>(),
  },
  (t) => [
    uniqueIndex('attempts_fence').on(t.buildId, t.fence),
    index('attempts_lease').on(t.state, t.leaseUntil),
    uniqueIndex('attempts_credential').on(t.credentialHash),
  ],
);

export const attemptSteps = mysqlTable(
  'attempt_steps',
  {
    attemptId: id('attempt_id').notNull(),
    place: int('place').notNull(),
    name: varchar('name', { length: 60 }).notNull(),
    says: varchar('says', { length: 2000 }).notNull(),
    state: mysqlEnum('state', buildRoutes.stepStates).notNull(),
    startedAt: instant('started_at'),
    endedAt: instant('ended_at'),
    logFrom: bigint('log_from', { mode: 'number' }),
    after: json('after').$type<readonly string[] | null>(),
    tries: int('tries').notNull().default(1),
    reused: json('reused').$type<{ build: number; at: number; tookMs: number } | null>(),
  },
  (t) => [primaryKey({ columns: [t.attemptId, t.place] })],
);

export const logChunks = mysqlTable(
  'log_chunks',
  {
    attemptId: id('attempt_id').notNull(),
    offset: bigint('offset', { mode: 'number' }).notNull(),
    bytes: bytes('bytes').notNull(),
    /** A gzip member, as the pieces of a log that is over are. */
    isZipped: boolean('is_zipped').notNull().default(false),
    /** How many lines had ended before it; unknown while the log still comes, and where it was packed before 0.19. */
    linesBefore: bigint('lines_before', { mode: 'number' }),
    /** Which step said what and when; null where nothing began to be said. */
    segments: json('segments').$type<LogSegments | null>(),
  },
  (t) => [
    primaryKey({ columns: [t.attemptId, t.offset] }),
    // The piece that a line stands in.
    index('log_chunks_line').on(t.attemptId, t.linesBefore, t.offset),
  ],
);

export const uploads = mysqlTable('uploads', {
  id: id('id').primaryKey(),
  attemptId: id('attempt_id').notNull(),
  openedAt: instant('opened_at').notNull(),
  closedAt: instant('closed_at'),
});

export const artifacts = mysqlTable(
  'artifacts',
  {
    projectId: id('project_id').notNull(),
    digest: digest('digest').notNull(),
    buildId: id('build_id').notNull(),
    files: int('files').notNull(),
    bytes: bigint('bytes', { mode: 'number' }).notNull(),
    storedAt: instant('stored_at').notNull(),
    goneAt: instant('gone_at'),
    /** The form of its manifest. */
    format: int('format').notNull().default(1),
  },
  (t) => [
    primaryKey({ columns: [t.projectId, t.digest] }),
    index('artifacts_gone').on(t.goneAt),
    // Which projects have some bytes.
    index('artifacts_digest').on(t.digest),
  ],
);

/** A runner or an edge: the same program with a token of its own. */
export const machines = mysqlTable(
  'machines',
  {
    id: id('id').primaryKey(),
    role: mysqlEnum('role', ['runner', 'edge']).notNull(),
    name: varchar('name', { length: 60 }).notNull(),
    tokenHash: digest('token_hash').notNull(),
    instance: id('instance'),
    beatAt: lease('beat_at'),
    revision: bigint('revision', { mode: 'number' }).notNull().default(0),
    /** Of an edge: the forms of manifests that it reads. */
    formats: varchar('formats', { length: 40 }).notNull().default('1'),
    /** Of an edge: the newest figures that were taken from this instance of it. */
    figures: bigint('figures', { mode: 'number' }).notNull().default(0),
    /** Of a runner: how many builds it takes at once, what it is labelled, and whether it is to take no more. */
    slots: int('slots').notNull().default(0),
    labels: json('labels').$type<readonly string[] | null>(),
    draining: boolean('draining').notNull().default(false),
  },
  (t) => [
    uniqueIndex('machines_name').on(t.role, t.name),
    uniqueIndex('machines_token').on(t.tokenHash),
  ],
);

/** The one head row that gives every decision its position. */
export const logHead = mysqlTable('log_head', {
  id: int('id').primaryKey(),
  position: bigint('position', { mode: 'number' }).notNull(),
});

export const logEntries = mysqlTable(
  'log_entries',
  {
    position: bigint('position', { mode: 'number' }).primaryKey(),
    at: instant('at').notNull(),
    kind: varchar('kind', { length: 60 }).notNull(),
    projectId: id('project_id'),
    bytes: longtext('bytes').notNull(),
    leaf: digest('leaf').notNull(),
  },
  (t) => [
    index('log_entries_project').on(t.projectId, t.position),
    index('log_entries_kind').on(t.kind, t.position),
  ],
);

/** Personal values that an entry names by a salted hash: they can be forgotten without breaking the log. */
export const logPersonal = mysqlTable(
  'log_personal',
  {
    position: bigint('position', { mode: 'number' }).notNull(),
    field: varchar('field', { length: 40 }).notNull(),
    salt: varchar('salt', { length: 32 }).notNull(),
    value: varchar('value', { length: 500 }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.position, t.field] })],
);

/** Calls that carried an idempotency key, with what came of them. */
export const keyedCalls = mysqlTable(
  'keyed_calls',
  {
    actorId: id('actor_id').notNull(),
    key: varchar('key', { length: 100 }).notNull(),
    call: digest('call').notNull(),
    /** Null where it may not be kept: a secret was shown. */
    kept: longtext('kept'),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.actorId, t.key] }), index('keyed_calls_at').on(t.at)],
);

/** What only one api process may do at a time: who does it, until when, and for the how-many-th holder that is. */
export const leases = mysqlTable('leases', {
  name: varchar('name', { length: 60 }).primaryKey(),
  holder: id('holder').notNull(),
  fence: bigint('fence', { mode: 'number' }).notNull(),
  until: lease('until').notNull(),
});

/** The database's own clock, for leases. */
export const databaseNow = sql<Date>`now(3)`;
