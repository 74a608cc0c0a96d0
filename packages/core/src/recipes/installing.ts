import { stepsBefore } from './check-recipe.ts';
import { orderSteps } from './order-steps.ts';
import type { Recipe } from './recipe.ts';

const installs = /\b(npm|pnpm|yarn)\b(?: +-\S+)* +(?:ci|i|install|add)\b|(?:^|&& *)(yarn) *$/;

/** Which package manager a step, or one before it, installs with; null when none does. */
export function installerFor(recipe: Recipe, name: string): string | null {
  const ordered = orderSteps(recipe.steps);
  const before =
    'order' in ordered ? (stepsBefore(ordered.order).get(name) ?? new Set()) : new Set();
  for (const step of recipe.steps) {
    if (step.name !== name && !before.has(step.name)) continue;
    for (const run of step.run) {
      const match = installs.exec(run);
      if (match !== null) return match[1] ?? match[2] ?? null;
    }
  }
  return null;
}
