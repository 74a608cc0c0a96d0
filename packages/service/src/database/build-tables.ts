import {
  bigint,
  boolean,
  index,
  int,
  json,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  varchar,
} from 'drizzle-orm/mysql-core';
import { bytes, digest, id, instant } from './columns.ts';
import { projects } from './repository-tables.ts';

/** What steps wrote, under the key of all that it hung on. */
export const stepResults = mysqlTable(
  'step_results',
  {
    projectId: id('project_id').notNull(),
    key: digest('key').notNull(),
    output: digest('output').notNull(),
    buildId: id('build_id').notNull(),
    step: varchar('step', { length: 60 }).notNull(),
    files: int('files').notNull(),
    bytes: bigint('bytes', { mode: 'number' }).notNull(),
    tookMs: bigint('took_ms', { mode: 'number' }).notNull(),
    at: instant('at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.projectId, t.key] }),
    index('step_results_at').on(t.projectId, t.at),
  ],
);

/** What is known of a build's result beside its bytes: one report of one step, read. */
export const evidence = mysqlTable(
  'evidence',
  {
    id: id('id').primaryKey(),
    projectId: id('project_id').notNull(),
    buildId: id('build_id').notNull(),
    step: varchar('step', { length: 60 }).notNull(),
    kind: mysqlEnum('kind', ['tests', 'findings', 'differences']).notNull(),
    path: varchar('path', { length: 500 }).notNull(),
    content: json('content').notNull(),
    at: instant('at').notNull(),
  },
  (t) => [
    index('evidence_build').on(t.buildId),
    index('evidence_kind').on(t.projectId, t.kind, t.id),
  ],
);

/** Variables and secrets that steps are given by name; values are sealed with a key outside the database. */
export const variables = mysqlTable(
  'variables',
  {
    projectId: id('project_id')
      .notNull()
      .references(() => projects.id),
    /** The environment whose rule of the map releases it; empty for the whole project. */
    environment: varchar('environment', { length: 40 }).notNull(),
    name: varchar('name', { length: 80 }).notNull(),
    kind: mysqlEnum('kind', ['plain', 'secret']).notNull(),
    sealed: bytes('sealed').notNull(),
    setBy: id('set_by').notNull(),
    setAt: instant('set_at').notNull(),
    usedAt: instant('used_at'),
  },
  (t) => [primaryKey({ columns: [t.projectId, t.environment, t.name] })],
);

/** What the inspection found in a file's bytes; read once for each digest and version of the rules. */
export const fileFindings = mysqlTable(
  'file_findings',
  {
    file: digest('file').notNull(),
    rules: int('rules').notNull(),
    facts: json('facts').notNull(),
  },
  (t) => [primaryKey({ columns: [t.file, t.rules] })],
);

/** What the inspection says of a whole artifact. */
export const inspections = mysqlTable(
  'inspections',
  {
    projectId: id('project_id').notNull(),
    artifact: digest('artifact').notNull(),
    findings: json('findings').notNull(),
    /** A secret was found in it: once it is taken out nothing of it is answered any more. */
    leaks: boolean('leaks').notNull().default(false),
    at: instant('at').notNull(),
    tookMs: bigint('took_ms', { mode: 'number' }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.projectId, t.artifact] })],
);

/** The signed statement of where an artifact came from: a DSSE envelope, as bytes. */
export const provenances = mysqlTable(
  'provenances',
  {
    projectId: id('project_id').notNull(),
    buildId: id('build_id').notNull(),
    artifact: digest('artifact').notNull(),
    envelope: bytes('envelope').notNull(),
  },
  (t) => [primaryKey({ columns: [t.projectId, t.buildId] })],
);
