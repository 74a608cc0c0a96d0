import type { BuildReply } from '@vaquero/contracts';
import {
  criticalPath,
  forecastSteps,
  type Instant,
  isOpen,
  orderSteps,
  type TimedStep,
  usualTime,
} from '@vaquero/core';
import { and, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import type { stepsOf } from '../builds/attempt-rows.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { planOf } from '../builds/known-steps.ts';
import type { Db } from '../database/pool.ts';
import { attemptSteps, attempts, builds } from '../database/tables.ts';
import type { ProjectRow } from '../projects/project-rows.ts';

type Steps = Awaited<ReturnType<typeof stepsOf>>;
type Seen = BuildReply['steps'][number];

const behind = [
  ['store', 'walk, hash and keep the output'],
  ['inspect', 'links, assets, secrets, size'],
  ['look', 'does it answer at its own address?'],
] as const;
const own = new Set<string>(['fetch', ...behind.map(([name]) => name)]);

/** The steps of a build as its page shows them: those that began, and while it is open those still to come, with when they are expected. */
export async function viewSteps(
  deps: Deps,
  project: ProjectRow,
  build: BuildRecord,
  steps: Steps,
): Promise<readonly Seen[]> {
  const now = deps.clock();
  const critical = criticalPath(chained(steps), now);
  const seen = steps.map(
    (step): Seen => ({
      name: step.name,
      // A build that was ended from outside told nothing of the steps that ran.
      state: !isOpen(build.state) && step.state === 'running' ? 'stopped' : step.state,
      says: step.says,
      startedAt: step.startedAt as Instant | null,
      endedAt: (step.endedAt ??
        (step.state === 'running' ? build.endedAt : null)) as Instant | null,
      logFrom: step.logFrom,
      after: [...(step.after ?? [])],
      tries: step.tries,
      reused: step.reused == null ? null : { ...step.reused, at: step.reused.at as Instant },
      critical: critical.has(step.name),
      expected: null,
    }),
  );
  if (!isOpen(build.state) || build.recipe == null) return seen;
  const all = [...seen, ...stepsToCome(project, build, seen)];
  const expected = forecastSteps(chained(all), await usualSteps(deps.db, build), now);
  return all.map((step) => {
    const foretold = expected.get(step.name);
    if (foretold === undefined) return step;
    const { startsAt, endsAt } = foretold;
    return { ...step, expected: { startsAt: startsAt as Instant, endsAt: endsAt as Instant } };
  });
}

/** The steps that a build has not come to. */
function stepsToCome(
  project: ProjectRow,
  build: BuildRecord,
  seen: readonly Seen[],
): readonly Seen[] {
  const begun = new Set(seen.map((step) => step.name));
  const ordered = orderSteps(planOf(project, build).steps);
  const planned = 'faults' in ordered ? [] : ordered.order;
  const waiting = (name: string, says: string, after: readonly string[]): Seen => ({
    name,
    says,
    after: [...after],
    state: 'waiting',
    startedAt: null,
    endedAt: null,
    logFrom: null,
    tries: 1,
    reused: null,
    critical: false,
    expected: null,
  });
  return [
    waiting('fetch', `the tree of ${build.commitId.slice(0, 12)}`, []),
    ...planned.map((step) => waiting(step.name, step.run.join(' && '), step.after)),
    ...(build.recipe?.recipe.serve === null ? [] : behind).map(([name, says]) =>
      waiting(name, says, []),
    ),
  ].filter((step) => !begun.has(step.name));
}

/**
 * Vaquero's own steps come after all before them: fetching before the recipe's, storing behind; inspection and look
 * go side by side behind that.
 */
function chained(
  steps: readonly (Omit<TimedStep, 'after'> & { readonly after: readonly string[] | null })[],
): readonly TimedStep[] {
  return steps.map((step, place) => ({
    ...step,
    after: own.has(step.name)
      ? steps
          .slice(0, place)
          .map((other) => other.name)
          .filter((name) => step.name !== 'look' || name !== 'inspect')
      : (step.after?.length ?? 0) === 0
        ? ['fetch']
        : (step.after ?? []),
  }));
}

const mostBuilds = 10;

/** The middle time of each step in the last builds of the ref that passed; of the project's when the ref has none. */
async function usualSteps(db: Db, build: BuildRecord): Promise<ReadonlyMap<string, number>> {
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
