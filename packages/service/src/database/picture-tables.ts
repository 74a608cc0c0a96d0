import type { PageToPicture } from '@vaquero/core';
import {
  index,
  int,
  json,
  mysqlEnum,
  mysqlTable,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { digest, id, instant, lease } from './columns.ts';
import type { PageTaken } from './kept-shapes.ts';

/** Pictures of what differs between two artifacts, wanted or taken. */
export const pictures = mysqlTable(
  'pictures',
  {
    id: id('id').primaryKey(),
    projectId: id('project_id').notNull(),
    before: digest('before_artifact').notNull(),
    after: digest('after_artifact').notNull(),
    state: mysqlEnum('state', ['wanted', 'taking', 'taken', 'failed']).notNull(),
    pages: json('pages').$type<readonly PageToPicture[]>().notNull(),
    /** What pages take for now: when the commit of the later one was made. */
    now: instant('now').notNull(),
    fence: int('fence').notNull().default(0),
    /** Until when the runner that takes them has them for itself. */
    leaseUntil: lease('lease_until'),
    wantedAt: instant('wanted_at').notNull(),
    endedAt: instant('ended_at'),
    why: varchar('why', { length: 300 }),
    taken: json('taken').$type<readonly PageTaken[] | null>(),
  },
  (t) => [
    uniqueIndex('pictures_of').on(t.projectId, t.before, t.after),
    index('pictures_state').on(t.state, t.wantedAt),
    index('pictures_wanted').on(t.wantedAt),
  ],
);
