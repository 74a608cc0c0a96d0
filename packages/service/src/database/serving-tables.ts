import {
  bigint,
  index,
  int,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  varchar,
} from 'drizzle-orm/mysql-core';
import { digest, id, instant } from './columns.ts';

/** Files of artifacts that never change under their address: browsers keep them for a year. */
export const lastingFiles = mysqlTable(
  'lasting_files',
  {
    artifact: digest('artifact').notNull(),
    /** SHA-256 of the address, which is too long for a key. */
    addressKey: digest('address_key').notNull(),
    address: varchar('address', { length: 1300 }).notNull(),
    file: digest('file').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.artifact, t.addressKey] }),
    index('lasting_files_address').on(t.addressKey, t.file),
  ],
);

/** How long a span of figures is; each is kept for another time. */
export type Span = 'minute' | 'hour' | 'day';

/** What visitors of an environment asked for, by deploy and span of time; nothing of a person. */
export const visits = mysqlTable(
  'visits',
  {
    environmentId: id('environment_id').notNull(),
    span: mysqlEnum('span', ['minute', 'hour', 'day']).notNull(),
    from: instant('from').notNull(),
    deploy: int('deploy').notNull(),
    requests: bigint('requests', { mode: 'number' }).notNull(),
    bytes: bigint('bytes', { mode: 'number' }).notNull(),
    found: bigint('found', { mode: 'number' }).notNull(),
    redirected: bigint('redirected', { mode: 'number' }).notNull(),
    missed: bigint('missed', { mode: 'number' }).notNull(),
    failed: bigint('failed', { mode: 'number' }).notNull(),
    slow: bigint('slow', { mode: 'number' }).notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.environmentId, t.span, t.from, t.deploy] }),
    index('visits_deploy').on(t.environmentId, t.span, t.deploy),
    index('visits_from').on(t.span, t.from),
  ],
);

/** Paths that a deploy did not find, as often as they were asked for. */
export const missedPaths = mysqlTable(
  'missed_paths',
  {
    environmentId: id('environment_id').notNull(),
    deploy: int('deploy').notNull(),
    pathKey: digest('path_key').notNull(),
    path: varchar('path', { length: 500 }).notNull(),
    times: bigint('times', { mode: 'number' }).notNull(),
    lastAt: instant('last_at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.environmentId, t.deploy, t.pathKey] }),
    index('missed_paths_times').on(t.environmentId, t.deploy, t.times),
  ],
);
