import { verdicts } from '@vaquero/core';
import {
  boolean,
  index,
  int,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { commitId, id, instant } from './columns.ts';
import { people } from './people-tables.ts';
import { projects, repositories } from './repository-tables.ts';

export const pullRequests = mysqlTable(
  'pull_requests',
  {
    id: id('id').primaryKey(),
    repositoryId: id('repository_id')
      .notNull()
      .references(() => repositories.id),
    /** Counted in its repository: projects that share one share its pull requests. */
    number: int('number').notNull(),
    title: varchar('title', { length: 200 }).notNull(),
    into: varchar('into_branch', { length: 250 }).notNull(),
    /** Null: a branch of the repository itself. */
    fromPlace: varchar('from_place', { length: 1000 }),
    fromBranch: varchar('from_branch', { length: 250 }).notNull(),
    state: mysqlEnum('state', ['open', 'merged', 'closed']).notNull().default('open'),
    isDraft: boolean('is_draft').notNull().default(false),
    head: commitId('head'),
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    openedAt: instant('opened_at').notNull(),
    endedAt: instant('ended_at'),
    trouble: varchar('trouble', { length: 1000 }),
  },
  (t) => [
    uniqueIndex('pull_requests_number').on(t.repositoryId, t.number),
    index('pull_requests_state').on(t.state, t.repositoryId, t.number),
    index('pull_requests_ended').on(t.repositoryId, t.endedAt, t.number),
  ],
);

/** Members' words for commits of outsiders, each for what its project builds of them. */
export const pullRequestWords = mysqlTable(
  'pull_request_words',
  {
    pullRequestId: id('pull_request_id')
      .notNull()
      .references(() => pullRequests.id),
    projectId: id('project_id')
      .notNull()
      .references(() => projects.id),
    commitId: commitId('commit_id').notNull(),
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.pullRequestId, t.projectId, t.commitId] })],
);

/** What members say of commits that they looked at, each for what its project shows of them. */
export const pullRequestVerdicts = mysqlTable(
  'pull_request_verdicts',
  {
    pullRequestId: id('pull_request_id')
      .notNull()
      .references(() => pullRequests.id),
    projectId: id('project_id')
      .notNull()
      .references(() => projects.id),
    commitId: commitId('commit_id').notNull(),
    personId: id('person_id')
      .notNull()
      .references(() => people.id),
    verdict: mysqlEnum('verdict', verdicts).notNull(),
    says: varchar('says', { length: 500 }).notNull(),
    at: instant('at').notNull(),
  },
  (t) => [
    primaryKey({
      name: 'pull_request_verdicts_once',
      columns: [t.pullRequestId, t.projectId, t.commitId, t.personId],
    }),
  ],
);
