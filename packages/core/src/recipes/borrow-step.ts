import type { RecipeFault } from './check-recipe.ts';
import type { Borrowing, Parameter, ParameterValue, Recipe, RecipeStep } from './recipe.ts';

/** What every parameter's environment variable begins with, so that none hides another variable. */
const prefix = 'PARAM_';

/**
 * A step with the definition that it borrows. It keeps its own name, what it comes after, the refs it is for,
 * and what its failure does; all else is the lender's, with parameters as environment variables
 * (`depth` as PARAM_DEPTH). Faults stand at the borrowing step.
 */
export function borrowStep(
  own: RecipeStep & { readonly borrows: Borrowing },
  lender: Recipe,
): { readonly step: RecipeStep } | { readonly faults: readonly RecipeFault[] } {
  const { project, step: name, params } = own.borrows;
  const fault = (key: string, message: string): { readonly faults: readonly RecipeFault[] } => ({
    faults: [{ path: ['steps', own.name, 'borrows', key], message }],
  });
  const lent = lender.steps.find((step) => step.name === name);
  if (lent === undefined || lent.lends === null) {
    // A step that is not lent is not told apart from one that is not there.
    const names = lender.steps.filter((step) => step.lends !== null).map((step) => step.name);
    return fault('step', `is not lent there; ${project} lends ${names.join(', ') || 'none'}`);
  }
  if (lent.borrows !== null)
    return fault('step', `is borrowed itself, from ${lent.borrows.project}: borrow it from there`);
  if (lent.beside.length > 0)
    return fault('step', `runs beside a helper of its own recipe, which cannot be borrowed`);
  const faults = parameterFaults(own, lent.lends);
  if (faults.length > 0) return { faults };
  const values = Object.entries(lent.lends).map(([key, parameter]) => [
    `${prefix}${key.toUpperCase().replaceAll('-', '_')}`,
    String(params[key] ?? parameter.default),
  ]);
  return {
    step: {
      ...lent,
      name: own.name,
      after: own.after,
      for: own.for,
      failure: own.failure,
      sets: { ...lent.sets, ...Object.fromEntries(values) },
      borrows: own.borrows,
      lends: null,
    },
  };
}

function parameterFaults(
  own: RecipeStep & { readonly borrows: Borrowing },
  lends: Readonly<Record<string, Parameter>>,
): readonly RecipeFault[] {
  const { params } = own.borrows;
  const at = (key: string, message: string): RecipeFault => ({
    path: ['steps', own.name, 'params', key],
    message,
  });
  const unknown = Object.keys(params)
    .filter((key) => lends[key] === undefined)
    .map((key) =>
      at(key, `is no parameter of it; it takes ${Object.keys(lends).join(', ') || 'none'}`),
    );
  const wrong = Object.entries(lends).flatMap(([key, parameter]) => {
    const value = params[key];
    if (value === undefined)
      return parameter.default === null ? [at(key, `must be said: ${inWords(parameter)}`)] : [];
    return takes(parameter, value) ? [] : [at(key, `must be ${inWords(parameter)}`)];
  });
  return [...unknown, ...wrong];
}

function takes({ takes: kind }: Parameter, value: ParameterValue): boolean {
  if (kind === 'text') return typeof value === 'string';
  if (kind === 'number') return typeof value === 'number';
  if (kind === 'flag') return typeof value === 'boolean';
  return kind.includes(String(value));
}

function inWords({ takes: kind }: Parameter): string {
  if (kind === 'text' || kind === 'number') return `a ${kind}`;
  return kind === 'flag' ? 'true or false' : `one of ${kind.join(', ')}`;
}
