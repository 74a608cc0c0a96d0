import { deployKinds } from '@vaquero/core';
import {
  bigint,
  boolean,
  index,
  int,
  json,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { commitId, digest, id, instant } from './columns.ts';

export const environments = mysqlTable(
  'environments',
  {
    id: id('id').primaryKey(),
    projectId: id('project_id').notNull(),
    name: varchar('name', { length: 40 }).notNull(),
    /** The map's rule that it lives by: of its own name, or that of its family. */
    rule: varchar('rule', { length: 40 }).notNull().default(''),
    /** Its place among the lanes, by the map's newest version; 0 is the top. */
    place: int('place').notNull(),
    /** Of a family: the ref that it is for. */
    ref: varchar('ref', { length: 255 }),
    /** When it last noticed a commit, and which. */
    touchedAt: instant('touched_at'),
    head: commitId('head'),
    /** Of a family: since when it lives, when a visitor came last, and when somebody last did something to it. */
    startedAt: instant('started_at'),
    visitedAt: instant('visited_at'),
    actedAt: instant('acted_at'),
    /** Until when somebody keeps it, who, and why. */
    keptUntil: instant('kept_until'),
    keptBy: id('kept_by'),
    keptWhy: varchar('kept_why', { length: 500 }),
    /** Since when its ref is gone. */
    closedAt: instant('closed_at'),
    endedAt: instant('ended_at'),
    /** The SHA-256 of the link that is lent for it, by whom and since when. */
    linkHash: digest('link_hash'),
    linkBy: id('link_by'),
    linkAt: instant('link_at'),
    endedBecause: mysqlEnum('ended_because', [
      'closed',
      'untouched',
      'crowded',
      'asked',
      'unruled',
      'project',
    ]),
    /** Who ended it, where somebody did, and what it served then. */
    endedBy: id('ended_by'),
    endedDeployId: id('ended_deploy_id'),
    generation: int('generation').notNull().default(0),
    intake: int('intake').notNull().default(0),
    lastDeploy: int('last_deploy').notNull().default(0),
    servesDeployId: id('serves_deploy_id'),
    /** Null once the map has ended it: the unique key lets a name live once and lie buried many times. */
    living: boolean('living').default(true),
  },
  (t) => [
    uniqueIndex('environments_name').on(t.projectId, t.name, t.living),
    // Hosts of what ended lately say so.
    index('environments_ended').on(t.endedAt),
    // What a family has, or had, for a ref.
    index('environments_ref').on(t.projectId, t.ref, t.rule),
    // Those that live, however many have ended.
    index('environments_living').on(t.projectId, t.living, t.place),
  ],
);

export const intakes = mysqlTable(
  'intakes',
  {
    environmentId: id('environment_id').notNull(),
    intake: int('intake').notNull(),
    changeId: id('change_id'),
    buildId: id('build_id').notNull(),
    /** waiting for its build; passed and offered to people; deployed; dropped because it was overtaken, held, or its build failed. */
    state: mysqlEnum('state', [
      'waiting',
      'offered',
      'deployed',
      'held',
      'overtaken',
      'failed',
    ]).notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.environmentId, t.intake] }),
    index('intakes_build').on(t.buildId),
    // Every loop asks for the few that wait.
    index('intakes_state').on(t.state, t.environmentId, t.intake),
  ],
);

export const deploys = mysqlTable(
  'deploys',
  {
    id: id('id').primaryKey(),
    environmentId: id('environment_id').notNull(),
    number: int('number').notNull(),
    kind: mysqlEnum('kind', deployKinds).notNull(),
    buildId: id('build_id').notNull(),
    commitId: commitId('commit_id').notNull(),
    artifact: digest('artifact').notNull(),
    configuration: json('configuration').$type<Readonly<Record<string, string>>>().notNull(),
    previousDeployId: id('previous_deploy_id'),
    undoesFirst: int('undoes_first'),
    undoesLast: int('undoes_last'),
    intake: int('intake').notNull(),
    moveId: id('move_id').notNull(),
    actorId: id('actor_id'),
    through: varchar('through', { length: 20 }).notNull(),
    reason: varchar('reason', { length: 500 }),
    committedAt: instant('committed_at').notNull(),
    confirmedAt: instant('confirmed_at'),
    position: bigint('position', { mode: 'number' }).notNull().default(0),
    /** The idempotency key of the call that made it, and which call that was. */
    callKey: varchar('call_key', { length: 100 }),
    call: digest('call'),
  },
  (t) => [
    uniqueIndex('deploys_call').on(t.actorId, t.callKey),
    // What rollbacks have undone of the newest entries.
    index('deploys_undoes').on(t.environmentId, t.undoesLast, t.undoesFirst),
    uniqueIndex('deploys_number').on(t.environmentId, t.number),
    // The way back to a build: its newest deploy in an environment, however many there are.
    index('deploys_build').on(t.environmentId, t.buildId, t.number),
    // Whether it ever served an artifact, and when last.
    index('deploys_artifact').on(t.environmentId, t.artifact, t.number),
    index('deploys_at').on(t.environmentId, t.committedAt, t.number),
    index('deploys_position').on(t.position),
    // What was taken out within the last hour, in all environments.
    index('deploys_committed').on(t.committedAt),
    // The few that no edge has confirmed yet: each move asks for them, however long the ledger is.
    index('deploys_unconfirmed').on(t.confirmedAt, t.position),
  ],
);

export const holds = mysqlTable(
  'holds',
  {
    id: id('id').primaryKey(),
    environmentId: id('environment_id').notNull(),
    deployId: id('deploy_id'),
    personId: id('person_id'),
    reason: varchar('reason', { length: 500 }).notNull(),
    since: instant('since').notNull(),
    liftedAt: instant('lifted_at'),
    liftedBy: id('lifted_by'),
    /** True while it holds, null afterwards: one hold at a time, as a constraint. */
    standing: boolean('standing').default(true),
  },
  (t) => [uniqueIndex('holds_standing').on(t.environmentId, t.standing)],
);
