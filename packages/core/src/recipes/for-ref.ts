import { branchOf, type RefName, tagOf } from '../refs/ref-name.ts';
import { matchesName } from './glob.ts';
import type { Recipe, RefRule } from './recipe.ts';

/** Whether a ref is meant by a rule. `into` is the branch that a pull request would be merged into, if it is one's head. */
export function isForRef(rule: RefRule, ref: RefName, into: string | null = null): boolean {
  const branch = branchOf(ref);
  const tag = tagOf(ref);
  const some = (patterns: readonly string[], name: string | undefined | null): boolean =>
    name !== undefined && name !== null && patterns.some((pattern) => matchesName(pattern, name));
  return some(rule.branch, branch) || some(rule.tag, tag) || some(rule.proposedInto, into);
}

/** Recipes that build a ref, or those that cannot stand beside each other since both would publish. */
export type Chosen<One> =
  | { readonly chosen: readonly One[] }
  | { readonly clashing: readonly One[] };

/** Chooses of a project's recipes those that a ref wants; `isSent` is whether the map sends it. At most one of them publishes. */
export function recipesFor<One extends { readonly recipe: Recipe }>(
  all: readonly One[],
  ref: RefName,
  isSent: boolean,
  into: string | null = null,
): Chosen<One> {
  const chosen = all.filter(({ recipe }) =>
    recipe.for === null ? isSent : isForRef(recipe.for, ref, into),
  );
  const publishing = chosen.filter(({ recipe }) => recipe.serve !== null);
  return publishing.length > 1 ? { clashing: publishing } : { chosen };
}

/** The recipe as it is carried out for a ref: without the steps that are not for it. */
export function planFor(recipe: Recipe, ref: RefName, into: string | null = null): Recipe {
  const left = new Set(
    recipe.steps
      .filter((step) => step.for !== null && !isForRef(step.for, ref, into))
      .map((step) => step.name),
  );
  if (left.size === 0) return recipe;
  const afterOf = (name: string): readonly string[] => {
    const step = recipe.steps.find((each) => each.name === name);
    return (step?.after ?? []).flatMap((other) => (left.has(other) ? afterOf(other) : [other]));
  };
  // What came after a step that is left out comes after what that one came after.
  return {
    ...recipe,
    steps: recipe.steps
      .filter((step) => !left.has(step.name))
      .map((step) => ({ ...step, after: [...new Set(afterOf(step.name))] })),
  };
}
