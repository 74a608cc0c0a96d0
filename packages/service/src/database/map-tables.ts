import { int, mediumtext, mysqlTable, primaryKey, varchar } from 'drizzle-orm/mysql-core';
import { id, instant } from './columns.ts';
import { projects } from './repository-tables.ts';

/** Every version of every project's map, as it was written. */
export const maps = mysqlTable(
  'maps',
  {
    projectId: id('project_id')
      .notNull()
      .references(() => projects.id),
    version: int('version').notNull(),
    text: mediumtext('text').notNull(),
    personId: id('person_id'),
    reason: varchar('reason', { length: 500 }),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.projectId, t.version] })],
);
