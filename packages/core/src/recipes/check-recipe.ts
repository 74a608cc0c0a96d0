import { cleanPath, fixedPart, isPattern, matchesPath } from './glob.ts';
import { orderSteps } from './order-steps.ts';
import type { Recipe, RecipeStep } from './recipe.ts';

/** A fault of a recipe as a whole: where it stands, what is wrong, and how to cure it. */
export interface RecipeFault {
  readonly path: readonly (string | number)[];
  readonly message: string;
}

/**
 * Faults that no single field shows: circles, steps and helpers that are not there, two steps that write
 * the same place, a step that reads what a step it does not come after writes.
 */
export function graphFaults(recipe: Recipe): readonly RecipeFault[] {
  const ordered = orderSteps(recipe.steps);
  if ('faults' in ordered) {
    return ordered.faults.map((fault) => ({
      path: ['steps', fault.step, 'after'],
      message: fault.message,
    }));
  }
  const before = stepsBefore(ordered.order);
  const helpers = new Set(recipe.beside.map((helper) => helper.name));
  return [
    ...recipe.steps.flatMap((step) =>
      step.beside
        .filter((name) => !helpers.has(name))
        .map((name) => ({
          path: ['steps', step.name, 'beside'],
          message: `names the helper "${name}", which stands nowhere under beside`,
        })),
    ),
    ...beyondFaults(recipe),
    ...recipe.steps.flatMap(cacheFaults),
    ...sharedWrites(recipe.steps),
    ...recipe.steps.flatMap((step) => readsOfOthers(step, recipe.steps, before)),
  ];
}

/** Faults that show only beside a commit: plain paths that it does not hold and no earlier step writes. */
export function readFaults(recipe: Recipe, paths: readonly string[]): readonly RecipeFault[] {
  const ordered = orderSteps(recipe.steps);
  if ('faults' in ordered) return [];
  const before = stepsBefore(ordered.order);
  const folders = new Set(paths.flatMap(foldersOf));
  const held = (path: string): boolean => path === '.' || folders.has(path);
  return recipe.steps.flatMap((step) =>
    (step.reads ?? []).flatMap((read, place) => {
      if (read.startsWith('/') || isPattern(read) || held(cleanPath(read))) return [];
      const writers = recipe.steps.filter(
        (other) => before.get(step.name)?.has(other.name) === true && writesInto(other, read),
      );
      if (writers.length > 0) return [];
      return [
        {
          path: ['steps', step.name, 'reads', place],
          message: `reads "${read}", which is not in the commit and which no step before it writes; name the step that writes it under after, or take it out`,
        },
      ];
    }),
  );
}

/** For each step the names of all steps that end before it begins. Takes them in an order that holds. */
export function stepsBefore(
  order: readonly RecipeStep[],
): ReadonlyMap<string, ReadonlySet<string>> {
  const before = new Map<string, ReadonlySet<string>>();
  for (const step of order) {
    before.set(
      step.name,
      new Set(step.after.flatMap((name) => [name, ...(before.get(name) ?? [])])),
    );
  }
  return before;
}

/** What lies outside the folder is seen only when it is named under beyond, or when a step writes it. */
function beyondFaults(recipe: Recipe): readonly RecipeFault[] {
  const seen = [
    ...recipe.beyond,
    ...recipe.steps.flatMap((step) => (step.writes ?? []).filter((path) => path.startsWith('/'))),
  ];
  return recipe.steps.flatMap((step) =>
    (step.reads ?? []).flatMap((read, place) =>
      !read.startsWith('/') || seen.some((path) => matchesPath(path, fixedPart(read)))
        ? []
        : [
            {
              path: ['steps', step.name, 'reads', place],
              message: `reads "${read}", which lies outside the project’s folder; name it under beyond`,
            },
          ],
    ),
  );
}

/** What is kept between builds is not the step's result: one would hide the other. */
function cacheFaults(step: RecipeStep): readonly RecipeFault[] {
  return step.caches.flatMap((cache, place) => {
    if (cache.startsWith('~')) return [];
    const hidden = step.writes?.find((write) => matchesPath(cleanPath(cache), cleanPath(write)));
    return hidden === undefined
      ? []
      : [
          {
            path: ['steps', step.name, 'caches', place],
            message: `keeps "${cache}", and hands on what it writes to "${hidden}" there; keep a folder inside it`,
          },
        ];
  });
}

function sharedWrites(steps: readonly RecipeStep[]): readonly RecipeFault[] {
  return steps.flatMap((step, place) =>
    (step.writes ?? []).flatMap((write) => {
      const other = steps
        .slice(0, place)
        .find((each) => each.writes?.some((path) => overlap(path, write)) === true);
      return other === undefined
        ? []
        : [
            {
              path: ['steps', step.name, 'writes'],
              message: `writes "${write}", and so does the step ${other.name}; give each a folder of its own`,
            },
          ];
    }),
  );
}

function readsOfOthers(
  step: RecipeStep,
  steps: readonly RecipeStep[],
  before: ReadonlyMap<string, ReadonlySet<string>>,
): readonly RecipeFault[] {
  return (step.reads ?? []).flatMap((read, place) => {
    if (read.startsWith('/') || cleanPath(read) === '.') return [];
    const late = steps.find(
      (other) =>
        other.name !== step.name &&
        before.get(step.name)?.has(other.name) !== true &&
        other.writes?.some((path) => matchesPath(path, fixedPart(read))) === true,
    );
    return late === undefined
      ? []
      : [
          {
            path: ['steps', step.name, 'reads', place],
            message: `reads "${read}", which the step ${late.name} writes, but does not come after it; add after: ${late.name}`,
          },
        ];
  });
}

function writesInto(step: RecipeStep, read: string): boolean {
  // A step that does not say what it writes may write anything.
  return step.writes === null || step.writes.some((write) => overlap(write, read));
}

/** Whether one of two paths lies at or below the other. */
function overlap(one: string, other: string): boolean {
  const [a, b] = [cleanPath(one), cleanPath(other)];
  return matchesPath(a, b) || matchesPath(b, a);
}

function foldersOf(path: string): readonly string[] {
  const parts = path.split('/');
  return parts.map((_, place) => parts.slice(0, place + 1).join('/'));
}
