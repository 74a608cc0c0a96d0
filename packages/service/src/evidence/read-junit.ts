import type { TestCase } from '@vaquero/core';
import { XMLParser } from 'fast-xml-parser';
import { z } from 'zod';
import type { Read } from './report-read.ts';

/** A text, also where its writer made it look like a number. */
export const textOf = z.union([z.string(), z.number(), z.boolean()]).transform(String);
const failure = z.union([
  textOf.transform((text) => ({ message: text })),
  z
    .looseObject({ '@message': textOf.optional(), '#text': textOf.optional() })
    .transform((node) => ({ message: node['@message'] ?? node['#text'] ?? '' })),
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
  collect(root.data, found, 0);
  return { ok: true, value: found };
}

const deepest = 40;

function collect(node: unknown, found: TestCase[], depth: number): void {
  if (depth > deepest || typeof node !== 'object' || node === null) return;
  const at = new Map(Object.entries(node));
  for (const item of listed(at.get('testcase'))) {
    const read = testCase.safeParse(item);
    if (read.success) found.push(caseOf(read.data));
  }
  for (const item of [...listed(at.get('testsuites')), ...listed(at.get('testsuite'))])
    collect(item, found, depth + 1);
}

function listed(value: unknown): readonly unknown[] {
  if (value === undefined) return [];
  return Array.isArray(value) ? value : [value];
}

function caseOf(node: z.output<typeof testCase>): TestCase {
  const failures = [...(node.failure ?? []), ...(node.error ?? [])];
  const suite = node['@classname'];
  const isNamed = suite !== undefined && suite !== 'test';
  const seconds = node['@time'];
  return {
    name: `${isNamed ? `${suite} › ` : ''}${node['@name']}`,
    state: failures.length > 0 ? 'failed' : node.skipped === undefined ? 'passed' : 'skipped',
    tookMs: seconds === undefined ? null : Math.round(seconds * 1000),
    message: failures[0]?.message.slice(0, 1000) ?? null,
    place: placeOf(node['@file'], node['@line']),
  };
}

function placeOf(file: string | undefined, line: string | undefined): string | null {
  if (file === undefined) return null;
  return line === undefined ? file : `${file}:${line}`;
}
