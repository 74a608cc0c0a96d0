import type { Instant } from '@vaquero/core';
import { getTableName, sql } from 'drizzle-orm';
import type { MySqlColumn } from 'drizzle-orm/mysql-core';
import type { Db } from './pool.ts';
import {
  attempts,
  builds,
  changes,
  deploys,
  environments,
  evidence,
  holds,
  projects,
  repositories,
  uploads,
} from './tables.ts';

/** Rows that refer to something which is not there. */
export interface StrayRows {
  /** Such as `deploys.build_id`. */
  readonly from: string;
  readonly rows: number;
}

/**
 * References that are no constraints: checking one locks the row that is referred to, and moves and builds would wait
 * there for whoever updates it. What refers, and to what; each row has an id of its own, which says when it was made.
 */
const references: readonly (readonly [MySqlColumn, MySqlColumn])[] = [
  [deploys.environmentId, environments.id],
  [deploys.buildId, builds.id],
  [deploys.previousDeployId, deploys.id],
  [environments.projectId, projects.id],
  [environments.servesDeployId, deploys.id],
  [holds.environmentId, environments.id],
  [evidence.buildId, builds.id],
  [uploads.attemptId, attempts.id],
  [changes.repositoryId, repositories.id],
];

/** Those of what was made since an instant that refer to nothing: none, unless something is broken. */
export async function strayRows(db: Db, since: Instant): Promise<readonly StrayRows[]> {
  const all = await Promise.all(
    references.map(async ([from, to]) => {
      const [named, column, other] = [getTableName(from.table), from.name, to.name].map((name) =>
        sql.identifier(name),
      );
      const [found] = await db.execute(sql`select count(*) as strays from ${named} as referring
        left join ${to.table} as referred on referred.${other} = referring.${column}
        where referring.id >= ${leastIdSince(since)} and referring.${column} is not null and referred.${other} is null`);
      const [row] = found as unknown as readonly { readonly strays: number }[];
      return { from: `${getTableName(from.table)}.${from.name}`, rows: row?.strays ?? 0 };
    }),
  );
  return all.filter(({ rows }) => rows > 0);
}

/** The least id that is made at an instant or later. Source: RFC 9562 section 5.7, whose first 48 bits are milliseconds. */
function leastIdSince(at: Instant): string {
  const ms = at.toString(16).padStart(12, '0');
  return `${ms.slice(0, 8)}-${ms.slice(8)}-7000-8000-000000000000`;
}
