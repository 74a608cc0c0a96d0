import { canonical, type Json } from '../audit/log-entry.ts';
import { plainStep, type Recipe, type Serve } from './recipe.ts';

/** One field that two recipes say differently, each side as people would write it. */
export interface RecipeDifference {
  readonly field: string;
  readonly ours: string;
  readonly theirs: string;
}

/** What differs between two recipes, field by field; empty when they say the same. */
export function recipeDifferences(ours: Recipe, theirs: Recipe): readonly RecipeDifference[] {
  const left = fieldsOf(ours);
  const right = fieldsOf(theirs);
  const names = [...new Set([...left.keys(), ...right.keys()])];
  return names
    .map((field) => ({
      field,
      ours: left.get(field) ?? absent,
      theirs: right.get(field) ?? absent,
    }))
    .filter(({ field, ours: one, theirs: other }) => {
      if (one === other) return false;
      // What a step leaves out that only one of them has would drown what it says.
      const only = one === absent ? other : other === absent ? one : null;
      return only === null || only !== leftOut.get(field.split('.').at(-1) ?? '');
    });
}

const absent = 'absent';
const nothingServed: Serve = { site: null, entry: '', missing: null };
const leftOut = new Map(
  Object.entries(plainStep({ name: 'any', run: [] })).map(([field, value]) => [
    field,
    canonical(value as Json),
  ]),
);

function fieldsOf(recipe: Recipe): ReadonlyMap<string, string> {
  const fields = new Map([
    ['serve.site', recipe.serve === null ? 'none' : (recipe.serve.site ?? 'found after the build')],
    ['serve.entry', recipe.serve?.entry ?? 'none'],
    ['serve.missing', recipe.serve?.missing ?? 'none'],
  ]);
  const { site: _, entry: __, missing: ___, ...rules } = recipe.serve ?? nothingServed;
  for (const [field, value] of Object.entries(rules))
    fields.set(`serve.${field}`, canonical(value as Json));
  for (const { name, run, ...rest } of recipe.steps) {
    fields.set(`steps.${name}.run`, run.join(' && '));
    for (const [field, value] of Object.entries(rest))
      fields.set(`steps.${name}.${field}`, canonical(value as Json));
  }
  return fields;
}
