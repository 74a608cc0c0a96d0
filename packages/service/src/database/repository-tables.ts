import type { InspectionRule, Recipe } from '@vaquero/core';
import {
  index,
  int,
  json,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { bytes, commitId, id, instant } from './columns.ts';

export const repositories = mysqlTable('repositories', {
  id: id('id').primaryKey(),
  kind: mysqlEnum('kind', ['hosted', 'http', 'ssh', 'path']).notNull(),
  place: varchar('place', { length: 1000 }).notNull(),
  look: int('look').notNull().default(0),
  lookedAt: instant('looked_at'),
  trouble: varchar('trouble', { length: 1000 }),
  lastPullRequest: int('last_pull_request').notNull().default(0),
  /** The project that it was made with: its roles say who pushes, merges and fetches, whatever other projects are built of it. */
  homeId: id('home_id').notNull(),
});

/** What private repositories are read with; secrets are sealed with a key outside the database. */
export const repositoryCredentials = mysqlTable('repository_credentials', {
  repositoryId: id('repository_id')
    .primaryKey()
    .references(() => repositories.id),
  kind: mysqlEnum('kind', ['token', 'key']).notNull().default('token'),
  user: varchar('user', { length: 200 }).notNull(),
  sealed: bytes('sealed').notNull(),
  /** Of a key for SSH: its public half, and the host's own, as `type base64`. */
  publicKey: varchar('public_key', { length: 1000 }),
  hostKey: varchar('host_key', { length: 4000 }),
  setBy: id('set_by').notNull(),
  setAt: instant('set_at').notNull(),
});

/** Keys for SSH that were made and are not used yet; the private half is sealed. */
export const repositoryKeys = mysqlTable(
  'repository_keys',
  {
    id: id('id').primaryKey(),
    place: varchar('place', { length: 1000 }).notNull(),
    publicKey: varchar('public_key', { length: 1000 }).notNull(),
    sealed: bytes('sealed').notNull(),
    /** What its host showed, each as `type base64`. */
    hostKeys: json('host_keys').$type<readonly string[]>().notNull(),
    madeBy: id('made_by').notNull(),
    madeAt: instant('made_at').notNull(),
  },
  (t) => [index('repository_keys_made').on(t.madeAt)],
);

export const projects = mysqlTable(
  'projects',
  {
    id: id('id').primaryKey(),
    name: varchar('name', { length: 40 }).notNull(),
    repositoryId: id('repository_id')
      .notNull()
      .references(() => repositories.id),
    folder: varchar('folder', { length: 255 }).notNull(),
    branch: varchar('branch', { length: 250 }).notNull(),
    mapVersion: int('map_version').notNull(),
    lastBuild: int('last_build').notNull().default(0),
    /** Up to 0.13 what stops a build stood here; it is moved into the map at the start. */
    holding: json('holding').$type<readonly InspectionRule[] | null>(),
    madeAt: instant('made_at').notNull(),
    /** What runners know it by, for uids and caches: never another project's, and the same when it is called otherwise. */
    builtAs: varchar('built_as', { length: 40 }).notNull().default(''),
    /** Where its own branch stood when it was made to begin with the next push: that commit is wanted nowhere. */
    unbuilt: commitId('unbuilt'),
    /** Its name stays taken, and its history can be read. */
    endedAt: instant('ended_at'),
  },
  (t) => [uniqueIndex('projects_name').on(t.name), index('projects_repository').on(t.repositoryId)],
);

/** What a project, or one of its environments, was called up to some moment. */
export const formerNames = mysqlTable(
  'former_names',
  {
    id: id('id').primaryKey(),
    projectId: id('project_id')
      .notNull()
      .references(() => projects.id),
    /** Null where the project itself was called so. */
    environmentId: id('environment_id'),
    name: varchar('name', { length: 40 }).notNull(),
    at: instant('at').notNull(),
  },
  (t) => [index('former_names_name').on(t.name, t.at), index('former_names_at').on(t.at)],
);

export const refs = mysqlTable(
  'refs',
  {
    repositoryId: id('repository_id').notNull(),
    name: varchar('name', { length: 255 }).notNull(),
    commitId: commitId('commit_id').notNull(),
  },
  (t) => [primaryKey({ columns: [t.repositoryId, t.name] })],
);

export const changes = mysqlTable(
  'changes',
  {
    id: id('id').primaryKey(),
    repositoryId: id('repository_id').notNull(),
    look: int('look').notNull(),
    ref: varchar('ref', { length: 255 }).notNull(),
    fromCommit: commitId('from_commit'),
    toCommit: commitId('to_commit'),
    doorbell: mysqlEnum('doorbell', ['push', 'poll', 'person', 'start']).notNull(),
    actorId: id('actor_id'),
    at: instant('at').notNull(),
  },
  (t) => [
    uniqueIndex('changes_once').on(t.repositoryId, t.look, t.ref),
    index('changes_at').on(t.at),
    // Who pushed a branch last.
    index('changes_ref').on(t.repositoryId, t.ref, t.look),
  ],
);

export const acceptedRecipes = mysqlTable(
  'accepted_recipes',
  {
    projectId: id('project_id')
      .notNull()
      .references(() => projects.id),
    version: int('version').notNull(),
    recipe: json('recipe').$type<Recipe>().notNull(),
    personId: id('person_id').notNull(),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.projectId, t.version] })],
);
