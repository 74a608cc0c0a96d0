import type { AddressRules } from '../serving/serving-rules.ts';

/** Which refs something is for: any of the patterns. Empty lists match nothing. */
export interface RefRule {
  readonly branch: readonly string[];
  readonly tag: readonly string[];
  /** Targets of pull requests. */
  readonly proposedInto: readonly string[];
}

/** One node of a recipe's graph: commands, with what they read, write and come after. */
export interface RecipeStep {
  readonly name: string;
  readonly run: readonly string[];
  readonly after: readonly string[];
  readonly network: 'none' | 'out';
  /** The folder it runs in, below the project's; null: the project's own. */
  readonly in: string | null;
  /** Environment variables with their plain values. */
  readonly sets: Readonly<Record<string, string>>;
  /** Names of variables and secrets that it is given; never values. */
  readonly given: readonly string[];
  /** Paths and patterns it sees of the commit; null: all of it, and it is never reused. */
  readonly reads: readonly string[] | null;
  /** Paths it may write and hands on; null: anywhere in the tree, and it is never reused. */
  readonly writes: readonly string[] | null;
  /** Folders kept between builds. */
  readonly caches: readonly string[];
  readonly withinMs: number | null;
  readonly tries: number;
  /** The refs it runs for; null: all. */
  readonly for: RefRule | null;
  /** What its failure does to the build. */
  readonly failure: 'ends' | 'warns';
  /** Names of helpers that run while it runs. */
  readonly beside: readonly string[];
  readonly results: { readonly tests: readonly string[]; readonly findings: readonly string[] };
  /** Where its definition is taken from; once that is read, where it came from. */
  readonly borrows: Borrowing | null;
  /** What a borrower may say of it, by name; null: it is not lent. */
  readonly lends: Readonly<Record<string, Parameter>> | null;
}

/** A step of another project's recipe, at one commit, with values for what that lets be said. */
export interface Borrowing {
  readonly project: string;
  readonly step: string;
  readonly commit: string;
  readonly params: Readonly<Record<string, ParameterValue>>;
}

export type ParameterValue = string | number | boolean;

/** What values a parameter takes, and the one it has when nothing is said; without that it must be said. */
export interface Parameter {
  readonly takes: 'text' | 'number' | 'flag' | readonly string[];
  readonly default: ParameterValue | null;
}

/** A process beside a step, such as a test's database: started before it, ended with it. */
export interface Helper {
  readonly name: string;
  readonly run: string;
  /** The port of the loopback that answers once it is ready; null: ready at once. */
  readonly readyPort: number | null;
  readonly withinMs: number;
}

/**
 * What of the tree is published, and how it is answered. `site` null: found after the first build. What is not said
 * is left out, so that recipes of earlier versions read the same.
 */
export interface Serve extends Partial<AddressRules> {
  readonly site: string | null;
  readonly entry: string;
  readonly missing: string | null;
  /** Further folders, by the prefix below the base at which each is answered: `print` for `/print`. */
  readonly sites?: Readonly<Record<string, string>>;
}

/** Tools by version; what is not named is the machine's own. Node goes by its line, the others by any version or line. */
export interface Tools {
  readonly node: number | null;
  readonly pnpm: string | null;
  readonly yarn: string | null;
}

export const noTools: Tools = { node: null, pnpm: null, yarn: null };

/** The step of a proposal that writes what is published. */
export const pagesStep = 'pages';
/** The step of a proposal that runs the project's own tests. */
export const testsStep = 'tests';

/** How a project is built. */
export interface Recipe {
  readonly name: string;
  /** The refs it is for; null: what the map sends. */
  readonly for: RefRule | null;
  /** When it is built again and afresh: five cron fields, UTC, and a branch; null branch: the project's own. */
  readonly again: { readonly cron: string; readonly branch: string | null } | null;
  /** Paths outside the folder that steps see, from the repository's root, each beginning with `/`. */
  readonly beyond: readonly string[];
  readonly tools: Tools;
  /** Labels that its runner must bear. */
  readonly runner: readonly string[];
  readonly steps: readonly RecipeStep[];
  readonly beside: readonly Helper[];
  /** Null: it publishes nothing and makes evidence only. */
  readonly serve: Serve | null;
}

/** Where a build's recipe came from. */
export type RecipeSource =
  | { readonly from: 'file'; readonly file: string }
  | { readonly from: 'accepted'; readonly version: number }
  | {
      readonly from: 'proposed';
      readonly because: readonly string[];
      /** What works, and should be otherwise. */
      readonly warnings: readonly string[];
    };

/** Where further recipes of a project lie, below its folder. */
export const recipeFolderName = '.vaquero';

/** The name of the recipe file in the project's folder. */
export const recipeFileName = 'vaquero.yaml';

/** A step that says no more than its name, commands and what else is given: sees and writes the whole tree. */
/** A plan none of whose steps reaches out, whatever they say. */
export function shutIn(plan: Recipe): Recipe {
  return { ...plan, steps: plan.steps.map((step) => ({ ...step, network: 'none' })) };
}

export function plainStep(
  step: Pick<RecipeStep, 'name' | 'run'> & Partial<RecipeStep>,
): RecipeStep {
  return {
    after: [],
    network: 'none',
    in: null,
    sets: {},
    given: [],
    reads: null,
    writes: null,
    caches: [],
    withinMs: null,
    tries: 1,
    for: null,
    failure: 'ends',
    beside: [],
    results: { tests: [], findings: [] },
    borrows: null,
    lends: null,
    ...step,
  };
}

/** A recipe that says no more than its steps and what it serves. */
export function plainRecipe(recipe: Pick<Recipe, 'steps' | 'serve'> & Partial<Recipe>): Recipe {
  return {
    name: 'site',
    for: null,
    again: null,
    beyond: [],
    tools: noTools,
    runner: [],
    beside: [],
    ...recipe,
  };
}

/** Whether a step's earlier result may be used again: only one that says what it reads and what it writes. */
export function isReusable(
  step: RecipeStep,
): step is RecipeStep & { readonly reads: readonly string[]; readonly writes: readonly string[] } {
  return step.reads !== null && step.writes !== null;
}
