import { usualTime } from '@vaquero/core';
import { and, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import type { BuildRecord } from '../builds/build-rows.ts';
import type { Db } from '../database/pool.ts';
import { attemptSteps, attempts, builds } from '../database/tables.ts';

const mostBuilds = 10;

/** The middle time of each step in the last builds of the ref that passed; of the project's when the ref has none. */
export async function usualSteps(db: Db, build: BuildRecord): Promise<ReadonlyMap<string, number>> {
  const passedAttempts = (ofRef: boolean) =>
    db
      .select({ id: attempts.id })
      .from(builds)
      .innerJoin(attempts, and(eq(attempts.buildId, builds.id), eq(attempts.state, 'passed')))
      .where(
        and(
          eq(builds.projectId, build.projectId),
          eq(builds.state, 'passed'),
          eq(builds.recipeName, build.recipeName),
          ...(ofRef ? [eq(builds.ref, build.ref)] : []),
        ),
      )
      .orderBy(desc(builds.number))
      .limit(mostBuilds);
  const own = await passedAttempts(true);
  const passed = own.length > 0 ? own : await passedAttempts(false);
  if (passed.length === 0) return new Map();
  const rows = await db
    .select({
      name: attemptSteps.name,
      startedAt: attemptSteps.startedAt,
      endedAt: attemptSteps.endedAt,
    })
    .from(attemptSteps)
    .where(
      and(
        inArray(
          attemptSteps.attemptId,
          passed.map((attempt) => attempt.id),
        ),
        // One that was reused took no time, and says nothing of how long it takes.
        inArray(attemptSteps.state, ['passed', 'flaky', 'warned']),
        isNotNull(attemptSteps.startedAt),
        isNotNull(attemptSteps.endedAt),
      ),
    );
  const times = new Map<string, number[]>();
  for (const { name, startedAt, endedAt } of rows) {
    const known = times.get(name) ?? [];
    times.set(name, known);
    known.push((endedAt ?? 0) - (startedAt ?? 0));
  }
  return new Map([...times].map(([name, all]) => [name, usualTime(all)?.medianMs ?? 0]));
}
