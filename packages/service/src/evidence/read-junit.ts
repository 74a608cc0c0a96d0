import type { TestCase } from '@vaquero/core';
import { XMLParser } from 'fast-xml-parser';
import { z } from 'zod';
import { placeInStack, repositoryPath } from './report-place.ts';
import type { Read } from './report-read.ts';

/** A text, also where its writer made it look like a number. */
export const textOf = z.union([z.string(), z.number(), z.boolean()]).transform(String);
const failure = z.union([
  textOf.transform((text) => ({ message: text, stack: text })),
  z
    .looseObject({ '@message': textOf.optional(), '#text': textOf.optional() })
    .transform((node) => ({
      message: node['@message'] || (node['#text'] ?? '').trim(),
      stack: node['#text'] ?? node['@message'] ?? '',
    })),
]);
const many = <Item extends z.ZodType>(item: Item) =>
  z
    .union([z.array(item), item])
    .transform((one): z.output<Item>[] => (Array.isArray(one) ? one : [one]) as z.output<Item>[]);
const testCase = z.looseObject({
  '@name': textOf.default('a test without a name'),
  '@classname': textOf.optional(),
  '@file': textOf.optional(),
  '@line': textOf.optional(),
  '@time': z.coerce.number().optional().catch(undefined),
  failure: many(failure).optional(),
  error: many(failure).optional(),
  skipped: z.unknown().optional(),
});

/** JUnit XML has no standard; what is read is what its writers agree on: suites in suites, cases, failure, error, skipped. */
export function readJUnit(text: string): Read<readonly TestCase[]> {
  // Entities of its own could make a small report grow without end, or name files of the machine.
  if (/<!(?:DOCTYPE|ENTITY)/i.test(text)) return { ok: false, why: 'it declares entities' };
  const parser = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    parseTagValue: false,
    // The parser resolves what it resolved once more: `&amp;lt;` is `&lt;`, and stays so.
    processEntities: false,
    tagValueProcessor: (_, text) => withoutEntities(text),
    attributeValueProcessor: (_, text) => withoutEntities(text),
  });
  let document: unknown;
  try {
    document = parser.parse(text, true);
  } catch (error) {
    return {
      ok: false,
      why: error instanceof Error ? (error.message.split('\n')[0] ?? '') : 'no XML',
    };
  }
  const found: TestCase[] = [];
  const root = z.looseObject({}).safeParse(document);
  if (!root.success || !('testsuites' in root.data || 'testsuite' in root.data))
    return { ok: false, why: 'it has neither testsuites nor testsuite at its top' };
  collect(root.data, [], found);
  return { ok: true, value: found };
}

const deepest = 40;

const named: Readonly<Record<string, string>> = {
  lt: '<',
  gt: '>',
  amp: '&',
  quot: '"',
  apos: "'",
};

/** Resolves the entities that XML itself has, each once. Source: XML 1.0, section 4.6. */
function withoutEntities(text: string): string {
  return text.replace(
    /&(?:(lt|gt|amp|quot|apos)|#(\d{1,7})|#x([0-9a-f]{1,6}));/gi,
    (all, name, ten, hex) => {
      if (name !== undefined) return named[String(name).toLowerCase()] ?? all;
      const code = ten === undefined ? Number.parseInt(hex, 16) : Number(ten);
      return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : all;
    },
  );
}

/** Names that runners give to what holds all suites: they say nothing of a test. */
const wholes =
  /^(?:pytest|root suite|mocha tests|jest tests|vitest tests|undefined|test ?suites?)$/i;

function collect(node: unknown, suites: readonly string[], found: TestCase[]): void {
  if (suites.length > deepest || typeof node !== 'object' || node === null) return;
  const at = new Map(Object.entries(node));
  for (const item of listed(at.get('testcase'))) {
    const read = testCase.safeParse(item);
    if (read.success) found.push(caseOf(read.data, suites));
  }
  for (const item of listed(at.get('testsuites'))) collect(item, [...suites, ''], found);
  for (const item of listed(at.get('testsuite')))
    collect(item, [...suites, suiteName(item)], found);
}

function suiteName(item: unknown): string {
  const read = z.looseObject({ '@name': textOf.optional() }).safeParse(item);
  const name = read.success ? (read.data['@name'] ?? '') : '';
  // One that writes its suites' names twice escaped cannot mean the marks.
  return wholes.test(name) ? '' : withoutEntities(name);
}

function listed(value: unknown): readonly unknown[] {
  if (value === undefined) return [];
  return Array.isArray(value) ? value : [value];
}

function caseOf(node: z.output<typeof testCase>, suites: readonly string[]): TestCase {
  const failures = [...(node.failure ?? []), ...(node.error ?? [])];
  const seconds = node['@time'];
  // One that is known not to hold yet, or left out, is no failure, whatever it did.
  const state = node.skipped !== undefined ? 'skipped' : failures.length > 0 ? 'failed' : 'passed';
  const [first] = state === 'failed' ? failures : [];
  return {
    name: nameOf(node['@name'], node['@classname'], suites),
    state,
    tookMs: seconds === undefined ? null : Math.round(seconds * 1000),
    message: first?.message.slice(0, 1000) ?? null,
    place: placeOf(node['@file'], node['@line'], first?.stack ?? ''),
  };
}

/** Some say the suite as the class, some only around the test, some in the test's own name too. */
function nameOf(name: string, written: string | undefined, suites: readonly string[]): string {
  const around = suites.filter(
    (suite) => suite !== '' && name !== suite && !name.startsWith(`${suite} `),
  );
  const isClass = written !== undefined && written !== 'test' && !name.includes(written);
  return [
    ...(isClass ? [written] : written === 'test' || written === undefined ? around : []),
    name,
  ].join(' › ');
}

function placeOf(file: string | undefined, line: string | undefined, stack: string): string | null {
  if (file !== undefined && line !== undefined) return `${repositoryPath(file)}:${line}`;
  return placeInStack(stack) ?? (file === undefined ? null : repositoryPath(file));
}
