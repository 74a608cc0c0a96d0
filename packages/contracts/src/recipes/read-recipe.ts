import {
  allow,
  type Decision,
  type DocumentFault,
  orderSteps,
  type Recipe,
  recipeFileName,
  refuse,
} from '@vaquero/core';
import { type Document, isNode, LineCounter, parseDocument } from 'yaml';
import { z } from 'zod';

const folder = z
  .string()
  .min(1)
  .max(255)
  .refine(
    (text) => !text.startsWith('/') && !text.split('/').includes('..'),
    'must stay inside the project’s folder',
  );

const names = z
  .union([z.string(), z.array(z.string()).max(64)])
  .transform((one) => (typeof one === 'string' ? [one] : one));
const commands = z
  .union([z.string().min(1), z.array(z.string().min(1)).min(1).max(32)])
  .transform((one) => (typeof one === 'string' ? [one] : one));

const stepSchema = z.strictObject({
  run: commands,
  after: names.default([]),
  network: z.enum(['none', 'out']).default('none'),
});

const stepName = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, 'a step’s name takes a–z, 0–9 and hyphens, 40 at most');

/** A recipe as written: what this version knows of the language. Unknown keys are refused by name. */
export const recipeSchema = z.strictObject({
  recipe: stepName.default('site'),
  format: z.literal(1).default(1),
  steps: z.record(stepName, stepSchema).default({}),
  serve: z.strictObject({
    site: folder,
    entry: z.string().min(1).max(255).default('index.html'),
    missing: z.string().min(1).max(255).nullable().default(null),
  }),
});

/** Keys of the whole language that this version does not carry out yet. */
const notKnownYet = new Set([
  'for',
  'again',
  'beyond',
  'tools',
  'beside',
  'reads',
  'writes',
  'caches',
  'given',
  'results',
  'within',
  'tries',
  'borrows',
  'params',
  'failure',
  'moved',
  'server',
  'instead',
  'immutable',
  'headers',
  'configuration',
]);

const largestFile = 64 * 1024;

/**
 * Reads the text of a recipe file.
 * Refuses: recipe-invalid, each fault with its line and column.
 */
export function readRecipe(text: string, file: string = recipeFileName): Decision<Recipe> {
  if (text.length > largestFile)
    return invalid(file, [
      { path: '', message: `is over ${largestFile} bytes`, line: null, column: null },
    ]);
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, merge: false });
  if (document.errors.length > 0) {
    return invalid(
      file,
      document.errors.map((error) => {
        const place = error.linePos?.[0];
        return {
          path: '',
          message: error.message.split('\n')[0] ?? error.code,
          line: place?.line ?? null,
          column: place?.col ?? null,
        };
      }),
    );
  }
  const plain = plainOf(document);
  if (!plain.ok) return invalid(file, [{ path: '', message: plain.why, line: null, column: null }]);
  const read = recipeSchema.safeParse(plain.value);
  if (!read.success) {
    return invalid(
      file,
      read.error.issues.flatMap((issue) => faultsOf(issue, document, lines)),
    );
  }
  const recipe = recipeOf(read.data);
  const ordered = orderSteps(recipe.steps);
  if ('faults' in ordered) {
    return invalid(
      file,
      ordered.faults.map((fault) => ({
        path: `steps.${fault.step}`,
        message: fault.message,
        ...placeOf(document, lines, ['steps', fault.step, 'after']),
      })),
    );
  }
  return allow(recipe);
}

/** The recipe as core knows it, from the schema's output. */
export function recipeOf(written: z.output<typeof recipeSchema>): Recipe {
  return {
    name: written.recipe,
    steps: Object.entries(written.steps).map(([name, step]) => ({
      name,
      run: step.run,
      after: step.after,
      network: step.network,
    })),
    serve: written.serve,
  };
}

function invalid(file: string, faults: readonly DocumentFault[]): Decision<never> {
  return refuse({ code: 'recipe-invalid', file, faults });
}

function plainOf(
  document: Document,
): { readonly ok: true; readonly value: unknown } | { readonly ok: false; readonly why: string } {
  try {
    return { ok: true, value: document.toJS({ maxAliasCount: 0 }) as unknown };
  } catch (error) {
    // toJS throws a ReferenceError for an alias, which is how a small file could grow without end.
    if (error instanceof ReferenceError)
      return { ok: false, why: 'uses an anchor and an alias; write the value out' };
    throw error;
  }
}

function faultsOf(
  issue: z.core.$ZodIssue,
  document: Document,
  lines: LineCounter,
): readonly DocumentFault[] {
  const at = issue.path.map((part) => (typeof part === 'symbol' ? String(part) : part));
  if (issue.code !== 'unrecognized_keys') {
    return [{ path: at.join('.'), message: issue.message, ...placeOf(document, lines, at) }];
  }
  return issue.keys.map((key) => ({
    path: [...at, key].join('.'),
    message: notKnownYet.has(key) ? 'is not known yet' : 'is not a key of a recipe',
    ...placeOf(document, lines, [...at, key]),
  }));
}

function placeOf(
  document: Document,
  lines: LineCounter,
  path: readonly (string | number)[],
): { line: number | null; column: number | null } {
  for (let length = path.length; length > 0; length -= 1) {
    const offset = keyOffset(document, path.slice(0, length));
    if (offset !== undefined) {
      const place = lines.linePos(offset);
      return { line: place.line, column: place.col };
    }
  }
  return { line: 1, column: 1 };
}

function keyOffset(document: Document, path: readonly (string | number)[]): number | undefined {
  const parent = path.length === 1 ? document.contents : document.getIn(path.slice(0, -1), true);
  const key = path.at(-1);
  if (!isNode(parent) || !('items' in parent) || !Array.isArray(parent.items)) return undefined;
  for (const item of parent.items as readonly {
    key?: { value?: unknown; range?: readonly number[] };
  }[]) {
    if (item.key?.value === key) return item.key?.range?.[0];
  }
  return undefined;
}
