import {
  allow,
  controlFault,
  type Decision,
  type DocumentFault,
  graphFaults,
  type Recipe,
  type RecipeFault,
  readFaults,
  recipeFileName,
  recipeFolderName,
  refuse,
  ruleFaults,
  rulesOf,
} from '@vaquero/core';
import { closest, distance } from 'fastest-levenshtein';
import { type Document, isNode, LineCounter, parseDocument, visit } from 'yaml';
import type { z } from 'zod';
import { faultOfIssue } from './fault-of-issue.ts';
import { recipeOf, recipeSchema } from './recipe-schema.ts';

/** Keys of the whole language that this version does not carry out yet. */
const notKnownYet = new Set(['server', 'configuration']);

const keysAt: readonly (readonly [RegExp, readonly string[]])[] = [
  [/^$/, Object.keys(recipeSchema.shape)],
  [/^steps\.[^.]+$/, Object.keys(recipeSchema.shape.steps.unwrap().valueType.shape)],
  [/^beside\.[^.]+$/, Object.keys(recipeSchema.shape.beside.unwrap().valueType.shape)],
  [/^serve$/, ['site', 'entry', 'missing', 'base', 'moved', 'instead', 'headers', 'immutable']],
  [/\.borrows$/, ['project', 'step', 'commit']],
  [/^again$/, ['cron', 'branch']],
  [/(?:^|\.)for$/, ['branch', 'tag', 'proposed-into']],
  [/\.results$/, ['tests', 'findings']],
  [/^tools$/, ['node', 'pnpm', 'yarn']],
];

const largestFile = 64 * 1024;

/**
 * Reads the text of a recipe file. `paths`, those of the commit below the project's folder, let it find
 * steps that read what is not there.
 * Refuses: recipe-invalid, each fault with its line and column.
 */
export function readRecipe(
  text: string,
  file: string = recipeFileName,
  paths: readonly string[] | null = null,
): Decision<Recipe> {
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
  const anchored = aliasFaultsOf(document, lines);
  if (anchored.length > 0) return invalid(file, anchored);
  const unprintable = controlFaultsOf(document, lines);
  if (unprintable.length > 0) return invalid(file, unprintable);
  const plain = plainOf(document);
  if (!plain.ok) return invalid(file, [{ path: '', message: plain.why, line: null, column: null }]);
  const read = recipeSchema.safeParse(plain.value);
  if (!read.success) {
    return invalid(
      file,
      read.error.issues.flatMap((issue) => faultsOf(issue, document, lines)),
    );
  }
  const recipe = recipeOf(read.data, nameOfFile(file));
  const faults = [
    ...serveFaults(read.data, file),
    ...(recipe.serve === null ? [] : ruleFaults(rulesOf(recipe.serve))),
    ...graphFaults(recipe),
    ...(paths === null ? [] : readFaults(recipe, paths)),
  ];
  return faults.length === 0
    ? allow(recipe)
    : invalid(
        file,
        faults.map((fault) => placed(fault, document, lines)),
      );
}

/**
 * Texts and keys with characters that end an argument or steer a terminal. All of them, wherever they stand: what a
 * text becomes is decided elsewhere, and changes.
 */
function controlFaultsOf(document: Document, lines: LineCounter): readonly DocumentFault[] {
  const faults: DocumentFault[] = [];
  visit(document, {
    Scalar: (role, { value, range }) => {
      const isHidden = role === 'key' && value === '__proto__';
      const message = isHidden
        ? 'is no key: programs take it for something else'
        : typeof value === 'string'
          ? controlFault(value, 'text')
          : null;
      if (message === null) return undefined;
      const { line, col } = lines.linePos(range?.[0] ?? 0);
      faults.push({ path: '', message, line, column: col });
      return faults.length < mostFaults ? undefined : visit.BREAK;
    },
  });
  return faults;
}

const mostFaults = 20;

/** A small file could grow without end by what stands for something else; it is told where that stands. */
function aliasFaultsOf(document: Document, lines: LineCounter): readonly DocumentFault[] {
  const faults: DocumentFault[] = [];
  visit(document, {
    Alias: (_, { source, range }) => {
      const { line, col } = lines.linePos(range?.[0] ?? 0);
      const message = `“*${source}” stands for what “&${source}” names elsewhere; write the value out`;
      faults.push({ path: '', message, line, column: col });
      return faults.length < mostFaults ? undefined : visit.BREAK;
    },
  });
  return faults;
}

/** A recipe in the folder of further ones is named like its file. */
function nameOfFile(file: string): string {
  const name =
    file
      .split('/')
      .at(-1)
      ?.replace(/\.yaml$/, '') ?? '';
  return isFurther(file) && /^[a-z][a-z0-9-]{0,39}$/.test(name) ? name : 'site';
}

function isFurther(file: string): boolean {
  return file.split('/').at(-2) === recipeFolderName;
}

/** A file that forgot to say what it publishes would build for ever and show nothing. */
function serveFaults(
  { serve }: z.output<typeof recipeSchema>,
  file: string,
): readonly RecipeFault[] {
  if (serve !== null || isFurther(file)) return [];
  const message = `is missing: ${recipeFileName} says what is published, such as serve: {site: dist}; where nothing is, it says serve: nothing`;
  return [{ path: ['serve'], message }];
}

/** Faults of a recipe's text that showed only beside other files, at their places in it. */
export function placeFaults(
  text: string,
  file: string,
  faults: readonly RecipeFault[],
): Decision<never> {
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, merge: false });
  return invalid(
    file,
    faults.map((fault) => placed(fault, document, lines)),
  );
}

function placed(fault: RecipeFault, document: Document, lines: LineCounter): DocumentFault {
  return {
    path: fault.path.join('.'),
    message: fault.message,
    ...placeOf(document, lines, fault.path),
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
      return { ok: false, why: 'something in it stands for something else; write the value out' };
    throw error;
  }
}

function faultsOf(
  issue: z.core.$ZodIssue,
  document: Document,
  lines: LineCounter,
): readonly DocumentFault[] {
  const at = issue.path.map((part) => (typeof part === 'symbol' ? String(part) : part));
  if (issue.code === 'unrecognized_keys') {
    return issue.keys.map((key) => ({
      path: [...at, key].join('.'),
      message: notKnownYet.has(key) ? 'is not known yet' : unknownKey(at.join('.'), key),
      ...placeOf(document, lines, [...at, key]),
    }));
  }
  // Of what may be a word or a block, a block is told what is wrong inside of it.
  const inner =
    issue.code === 'invalid_union'
      ? issue.errors.find((each) =>
          each.some((one) => one.path.length > 0 || one.code === 'unrecognized_keys'),
        )
      : undefined;
  if (inner !== undefined)
    return inner.flatMap((each) =>
      faultsOf({ ...each, path: [...issue.path, ...each.path] }, document, lines),
    );
  return [{ path: at.join('.'), message: faultOfIssue(issue), ...placeOf(document, lines, at) }];
}

function unknownKey(at: string, key: string): string {
  const known = keysAt.find(([where]) => where.test(at))?.[1] ?? [];
  const near = known.length === 0 ? '' : closest(key, [...known]);
  const isNear = near !== '' && distance(key, near) <= Math.max(2, Math.floor(key.length / 3));
  return `is not a key of a recipe; ${isNear ? `did you mean “${near}”?` : `here stand ${known.join(', ')}`}`;
}

function placeOf(
  document: Document,
  lines: LineCounter,
  path: readonly (string | number)[],
): { line: number | null; column: number | null } {
  for (let length = path.length; length > 0; length -= 1) {
    const offset = offsetOf(document, path.slice(0, length));
    if (offset !== undefined) {
      const place = lines.linePos(offset);
      return { line: place.line, column: place.col };
    }
  }
  return { line: 1, column: 1 };
}

function offsetOf(document: Document, path: readonly (string | number)[]): number | undefined {
  const parent = path.length === 1 ? document.contents : document.getIn(path.slice(0, -1), true);
  const key = path.at(-1);
  if (!isNode(parent) || !('items' in parent) || !Array.isArray(parent.items)) return undefined;
  if (typeof key === 'number') {
    const item = (parent.items as readonly { range?: readonly number[] }[])[key];
    return item?.range?.[0];
  }
  for (const item of parent.items as readonly {
    key?: { value?: unknown; range?: readonly number[] };
  }[]) {
    if (item.key?.value === key) return item.key?.range?.[0];
  }
  return undefined;
}
