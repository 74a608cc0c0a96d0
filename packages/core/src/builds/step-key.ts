import { canonical, type Json } from '../audit/log-entry.ts';
import { fixedPart, matchesPath, pathMatcher } from '../recipes/glob.ts';
import type { Helper, RecipeStep } from '../recipes/recipe.ts';
import type { Trust } from '../refs/pull-request.ts';

/** A file of a commit, by its path, mode and content as Git names it. */
export interface TreeFile {
  readonly path: string;
  readonly mode: string;
  readonly object: string;
}

/** Everything that a step's result hangs on. */
export interface StepInputs {
  readonly project: string;
  /** Whose code it is: outsiders' results never answer for trusted ones. */
  readonly trust: Trust;
  readonly step: RecipeStep;
  readonly helpers: readonly Helper[];
  /** Those of the commit that it reads, as `readsOf` picks them. */
  readonly files: readonly TreeFile[];
  readonly tools: Readonly<Record<string, string>>;
  /** Digests of what all steps before it wrote, by their names. */
  readonly before: Readonly<Record<string, string>>;
  /** Values that it is given, by name. */
  readonly given: Readonly<Record<string, string>>;
}

/**
 * The text whose keyed hash is a step's key: equal for two runs exactly when nothing that the step may
 * see differs. What only steers the build (tries, time limit, what it comes after by name) is not in it.
 */
export function stepKeyText(inputs: StepInputs): string {
  const { step } = inputs;
  const files = inputs.files.map((file): Json => [file.path, file.mode, file.object]);
  return canonical({
    format: 1,
    project: inputs.project,
    trust: inputs.trust,
    run: [...step.run],
    in: step.in,
    sets: { ...step.sets },
    given: { ...inputs.given },
    network: step.network,
    writes: [...(step.writes ?? [])],
    results: { tests: [...step.results.tests], findings: [...step.results.findings] },
    helpers: inputs.helpers
      .filter((helper) => step.beside.includes(helper.name))
      .map(({ name, run, readyPort }): Json => ({ name, run, readyPort })),
    tools: { ...inputs.tools },
    before: { ...inputs.before },
    files,
  });
}

/** Picks the files that a step reads. A submodule is one name in the tree, for all that lies in it. */
export function readsOf(step: RecipeStep): (files: readonly TreeFile[]) => readonly TreeFile[] {
  const reads = (step.reads ?? []).map((read) => ({
    isMet: pathMatcher(read),
    fixed: fixedPart(read),
  }));
  return (files) =>
    files.filter(({ path, mode }) => {
      const segments = path.split('/');
      return reads.some(
        ({ isMet, fixed }) =>
          isMet(path, segments) || (mode === submoduleMode && matchesPath(path, fixed)),
      );
    });
}

/** So often is a path of a commit held against what a recipe's steps read; beyond it nobody waits for the answer. */
export const mostLooks = 20_000_000;

/** How often that would be for a commit of so many entries. */
export function looksFor(steps: readonly RecipeStep[], entries: number): number {
  return steps.reduce((sum, step) => sum + (step.reads?.length ?? 0), 0) * entries;
}

/** Source: git-ls-tree(1), the mode of a commit in a tree. */
const submoduleMode = '160000';
