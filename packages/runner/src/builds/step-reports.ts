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

/** Tells the api how steps stand, in the order it is told, without holding up the build. */
export interface StepTeller {
  readonly tell: (reports: readonly StepReport[]) => void;
  /** Waits until the api knows all that was told. */
  readonly flush: () => Promise<void>;
}

/**
 * Makes a teller: one call under way, what is told meanwhile joins the next. A build of short steps is
 * then not a queue of calls. `lost` hears of a call that failed for good; nothing is sent after that.
 */
export function makeStepTeller(
  send: (reports: StepReport[]) => Promise<void>,
  lost: (error: unknown) => void,
): StepTeller {
  let waiting: StepReport[] = [];
  let sending: Promise<void> | null = null;
  let broken = false;
  const drain = async (): Promise<void> => {
    while (waiting.length > 0 && !broken) {
      const batch = waiting.splice(0, mostReports);
      await send(batch).catch((error: unknown) => {
        broken = true;
        lost(error);
      });
    }
    sending = null;
  };
  return {
    tell: (reports) => {
      // Once the receiver is gone nothing is kept for it; a drain with nothing to do would never be over.
      if (broken || reports.length === 0) return;
      waiting = [...waiting, ...reports];
      sending ??= drain();
    },
    flush: async () => {
      while (sending !== null) await sending;
    },
  };
}

/** As many as one call takes. */
const mostReports = 200;
