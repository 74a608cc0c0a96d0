import type { StepReport } from '@vaquero/contracts';
import type { RecipeStep } from '@vaquero/core';
import type { BuildAt } from './build-at.ts';

/** How a step of the recipe stands, as the api is told it. Its place is the written one, behind fetching. */
export function reportOf(
  at: BuildAt,
  step: RecipeStep,
  state: StepReport['state'],
  more: Partial<StepReport> = {},
): StepReport {
  return {
    name: step.name,
    place: at.given.recipe.steps.findIndex((each) => each.name === step.name) + 1,
    says: step.run.join(' && ').slice(0, 2000),
    after: [...step.after],
    state,
    tries: 1,
    at: at.clock(),
    logFrom: null,
    reused: null,
    ...more,
  };
}

/** Tells the api how some steps stand, in one call. */
export async function sendReports(at: BuildAt, reports: readonly StepReport[]): Promise<void> {
  if (reports.length > 0) await at.api.steps([...reports]);
}
