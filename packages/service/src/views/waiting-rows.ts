import { and, desc, eq, inArray } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { builds, intakes } from '../database/tables.ts';
import type { EnvironmentRow } from '../environments/environment-rows.ts';

/** What is older than so many open intakes is no news to anybody. */
const mostLookedAt = 20;

/** The open intakes of an environment with their builds, newest first. */
export function openIntakes(db: Db, environmentId: string) {
  return db
    .select({
      number: builds.number,
      subject: builds.subject,
      state: builds.state,
      commitId: builds.commitId,
      artifact: builds.artifact,
      startedAt: builds.startedAt,
      endedAt: builds.endedAt,
      intake: intakes.state,
    })
    .from(intakes)
    .innerJoin(builds, eq(builds.id, intakes.buildId))
    .where(
      and(
        eq(intakes.environmentId, environmentId),
        inArray(intakes.state, ['waiting', 'offered', 'held']),
      ),
    )
    .orderBy(desc(intakes.intake))
    .limit(mostLookedAt);
}

/** What became of the newest build that an environment took notice of; undefined before the first. */
export async function newestIntake(db: Db, { id, intake }: EnvironmentRow) {
  const [newest] = await db
    .select({ state: intakes.state, build: builds.number })
    .from(intakes)
    .innerJoin(builds, eq(builds.id, intakes.buildId))
    .where(and(eq(intakes.environmentId, id), eq(intakes.intake, intake)));
  return newest;
}
