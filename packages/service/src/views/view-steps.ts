import type { BuildReply } from '@vaquero/contracts';
import {
  criticalPath,
  forecastSteps,
  type Instant,
  isOpen,
  orderSteps,
  type TimedStep,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import type { stepsOf } from '../builds/attempt-rows.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { planOf } from '../builds/known-steps.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { usualSteps } from './step-view-rows.ts';

/** What Vaquero does of its own behind the steps of a recipe, and what each of it is. */
const behind = [
  ['store', 'walk, hash and keep the output'],
  ['inspect', 'links, assets, secrets, size'],
  ['look', 'does it answer at its own address?'],
] as const;

/** The names of all that Vaquero does of its own in a build. */
const own = new Set<string>(['fetch', ...behind.map(([name]) => name)]);

type Steps = Awaited<ReturnType<typeof stepsOf>>;
type Seen = BuildReply['steps'][number];

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
