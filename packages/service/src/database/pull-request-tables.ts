import type { Verdict } from '@vaquero/core';
import {
  boolean,
  index,
  int,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { digest, id, instant } from './columns.ts';

export const pullRequests = mysqlTable(
  'pull_requests',
  {
    id: id('id').primaryKey(),
    repositoryId: id('repository_id').notNull(),
    /** Counted in its repository: projects that share one share its pull requests. */
    number: int('number').notNull(),
    title: varchar('title', { length: 200 }).notNull(),
    into: varchar('into_branch', { length: 250 }).notNull(),
    /** Null: a branch of the repository itself. */
    fromPlace: varchar('from_place', { length: 1000 }),
    fromBranch: varchar('from_branch', { length: 250 }).notNull(),
    state: varchar('state', { length: 10 })
      .$type<'open' | 'merged' | 'closed'>()
      .notNull()
      .default('open'),
    isDraft: boolean('is_draft').notNull().default(false),
    head: digest('head'),
    personId: id('person_id').notNull(),
    openedAt: instant('opened_at').notNull(),
    endedAt: instant('ended_at'),
    trouble: varchar('trouble', { length: 1000 }),
  },
  (t) => [
    uniqueIndex('pull_requests_number').on(t.repositoryId, t.number),
    index('pull_requests_state').on(t.state, t.repositoryId, t.number),
    index('pull_requests_ended').on(t.repositoryId, t.endedAt),
  ],
);

/** Members' words for commits of outsiders, each for what its project builds of them. */
export const pullRequestWords = mysqlTable(
  'pull_request_words',
  {
    pullRequestId: id('pull_request_id').notNull(),
    projectId: id('project_id').notNull(),
    commitId: digest('commit_id').notNull(),
    personId: id('person_id').notNull(),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.pullRequestId, t.projectId, t.commitId] })],
);

/** What members say of commits that they looked at, each for what its project shows of them. */
export const pullRequestVerdicts = mysqlTable(
  'pull_request_verdicts',
  {
    pullRequestId: id('pull_request_id').notNull(),
    projectId: id('project_id').notNull(),
    commitId: digest('commit_id').notNull(),
    personId: id('person_id').notNull(),
    verdict: varchar('verdict', { length: 12 }).$type<Verdict>().notNull(),
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
