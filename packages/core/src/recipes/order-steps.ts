import type { RecipeStep } from './recipe.ts';

/** A fault of the step graph, by the step it is found at. */
export interface GraphFault {
  readonly step: string;
  readonly message: string;
}

/**
 * Puts steps in an order in which each comes after those it names, keeping the written order otherwise.
 * Faults: a name that no step bears, a step after itself, a circle (named whole).
 */
export function orderSteps(
  steps: readonly RecipeStep[],
): { readonly order: readonly RecipeStep[] } | { readonly faults: readonly GraphFault[] } {
  const names = new Set(steps.map((step) => step.name));
  const unknown = steps.flatMap((step) =>
    step.after
      .filter((name) => !names.has(name))
      .map((name) => ({ step: step.name, message: `comes after "${name}", which is no step` })),
  );
  if (unknown.length > 0) return { faults: unknown };
  const order: RecipeStep[] = [];
  const placed = new Set<string>();
  while (order.length < steps.length) {
    const next = steps.find(
      (step) => !placed.has(step.name) && step.after.every((name) => placed.has(name)),
    );
    if (next === undefined) return { faults: [circleIn(steps, placed)] };
    order.push(next);
    placed.add(next.name);
  }
  return { order };
}

function circleIn(steps: readonly RecipeStep[], placed: ReadonlySet<string>): GraphFault {
  const open = new Map(
    steps.filter((step) => !placed.has(step.name)).map((step) => [step.name, step.after]),
  );
  const walk: string[] = [];
  let at = [...open.keys()][0] ?? '';
  while (!walk.includes(at)) {
    walk.push(at);
    at = open.get(at)?.find((name) => open.has(name)) ?? at;
  }
  const circle = [...walk.slice(walk.indexOf(at)), at];
  return { step: at, message: `waits for itself: ${circle.join(' after ')}` };
}
