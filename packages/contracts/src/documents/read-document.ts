import { controlFault, type DocumentFault } from '@vaquero/core';
import { closest, distance } from 'fastest-levenshtein';
import { type Document, isNode, LineCounter, parseDocument, visit } from 'yaml';
import type { z } from 'zod';
import { faultOfIssue } from './fault-of-issue.ts';

const largestDocument = 64 * 1024;

/** One of our languages: its schema, and what its keys are called where one is mistaken. */
export interface Language<Schema extends z.ZodType> {
  readonly schema: Schema;
  /** What a document of it is, such as `recipe`. */
  readonly noun: string;
  /** The keys that stand at a place, told by its path. */
  readonly keysAt: readonly (readonly [RegExp, readonly string[]])[];
  /** Keys of the whole language that this version does not carry out yet. */
  readonly notKnownYet: ReadonlySet<string>;
}

/** A fault that was found beside the schema, at a path of the document. */
export interface PathFault {
  readonly path: readonly (string | number)[];
  readonly message: string;
}

/** A document that is in order, and what places further faults in it; or the faults that it has. */
export type ReadDocument<Value> =
  | {
      readonly ok: true;
      readonly value: Value;
      readonly placed: (fault: PathFault) => DocumentFault;
    }
  | { readonly ok: false; readonly faults: readonly DocumentFault[] };

/** Reads a document of strangers: bounded, without aliases and characters that steer; each fault has line and column. */
export function readDocument<Schema extends z.ZodType>(
  text: string,
  language: Language<Schema>,
): ReadDocument<z.output<Schema>> {
  const nowhere = (message: string): ReadDocument<never> => ({
    ok: false,
    faults: [{ path: '', message, line: null, column: null }],
  });
  if (text.length > largestDocument) return nowhere(`is over ${largestDocument} bytes`);
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, merge: false });
  if (document.errors.length > 0)
    return {
      ok: false,
      faults: document.errors.map((error) => {
        const [at] = error.linePos ?? [];
        const message = error.message.split('\n')[0] ?? error.code;
        return { path: '', message, line: at?.line ?? null, column: at?.col ?? null };
      }),
    };
  for (const find of [aliasFaultsOf, controlFaultsOf]) {
    const faults = find(document, lines);
    if (faults.length > 0) return { ok: false, faults };
  }
  const plain = plainOf(document);
  if (!plain.ok) return nowhere(plain.why);
  const read = language.schema.safeParse(plain.value);
  if (!read.success)
    return {
      ok: false,
      faults: read.error.issues.flatMap((issue) => faultsOf(issue, document, lines, language)),
    };
  return { ok: true, value: read.data, placed: (fault) => placed(fault, document, lines) };
}

/** Faults that showed only beside other documents, at their places in this one. */
export function placedFaults(text: string, faults: readonly PathFault[]): readonly DocumentFault[] {
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, merge: false });
  return faults.map((fault) => placed(fault, document, lines));
}

function placed(fault: PathFault, document: Document, lines: LineCounter): DocumentFault {
  return {
    path: fault.path.join('.'),
    message: fault.message,
    ...placeOf(document, lines, fault.path),
  };
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
  language: Language<z.ZodType>,
): readonly DocumentFault[] {
  const at = issue.path.map((part) => (typeof part === 'symbol' ? String(part) : part));
  if (issue.code === 'unrecognized_keys') {
    return issue.keys.map((key) => ({
      path: [...at, key].join('.'),
      message: language.notKnownYet.has(key)
        ? 'is not known yet'
        : unknownKey(at.join('.'), key, language),
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
      faultsOf({ ...each, path: [...issue.path, ...each.path] }, document, lines, language),
    );
  return [{ path: at.join('.'), message: faultOfIssue(issue), ...placeOf(document, lines, at) }];
}

function unknownKey(at: string, key: string, { keysAt, noun }: Language<z.ZodType>): string {
  const known = keysAt.find(([where]) => where.test(at))?.[1] ?? [];
  const near = known.length === 0 ? '' : closest(key, [...known]);
  const isNear = near !== '' && distance(key, near) <= Math.max(2, Math.floor(key.length / 3));
  return `is not a key of a ${noun}; ${isNear ? `did you mean “${near}”?` : `here stand ${known.join(', ')}`}`;
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
