import { canonical, type Json } from '../audit/log-entry.ts';
import { fixedPart, matchesPath } from '../recipes/glob.ts';
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
  const reads = step.reads ?? [];
  const files = inputs.files
    .filter((file) => reads.some((read) => isRead(read, file)))
    .map((file): Json => [file.path, file.mode, file.object]);
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

/** A submodule is one name in the tree, for all that lies in it. */
function isRead(read: string, { path, mode }: TreeFile): boolean {
  return matchesPath(read, path) || (mode === submoduleMode && matchesPath(path, fixedPart(read)));
}

/** Source: git-ls-tree(1), the mode of a commit in a tree. */
const submoduleMode = '160000';
