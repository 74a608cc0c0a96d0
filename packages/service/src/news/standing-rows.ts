import { asc, count, eq, isNotNull, sql } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { attemptSteps, attempts, builds, projects, repositories } from '../database/tables.ts';

/** Repositories that cannot be read, and why. */
export function troublesOf(db: Db) {
  return db
    .select({ id: repositories.id, trouble: repositories.trouble })
    .from(repositories)
    .where(isNotNull(repositories.trouble))
    .orderBy(asc(repositories.id));
}

/** Running attempts, each with how many of its steps have begun and ended. */
export function runningNow(db: Db) {
  return db
    .select({
      attempt: attempts.id,
      id: projects.id,
      name: projects.name,
      build: builds.number,
      begun: count(attemptSteps.startedAt),
      ended: count(attemptSteps.endedAt),
      tries: sql<number | null>`sum(${attemptSteps.tries})`,
    })
    .from(attempts)
    .innerJoin(builds, eq(builds.id, attempts.buildId))
    .innerJoin(projects, eq(projects.id, builds.projectId))
    .leftJoin(attemptSteps, eq(attemptSteps.attemptId, attempts.id))
    .where(eq(attempts.state, 'running'))
    .groupBy(attempts.id, projects.id, projects.name, builds.number);
}
