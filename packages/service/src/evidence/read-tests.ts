import { type TestCase, type TestReport, testReport } from '@vaquero/core';
import { Parser as TapParser } from 'tap-parser';
import { z } from 'zod';
import { readJUnit, textOf } from './read-junit.ts';
import { repositoryPath } from './report-place.ts';
import type { Read } from './report-read.ts';

const mostCases = 50_000;

/** Reads a report of tests: JUnit XML or TAP, told by its content. */
export function readTests(text: string): Read<TestReport> {
  const cases = /^\s*</.test(text) ? readJUnit(text) : readTap(text);
  return cases.ok ? { ok: true, value: testReport(cases.value.slice(0, mostCases)) } : cases;
}

const diagnostic = z.looseObject({
  message: textOf.optional(),
  error: textOf.optional(),
  at: z
    .union([textOf, z.looseObject({ file: textOf.optional(), line: textOf.optional() })])
    .optional(),
  location: textOf.optional(),
  duration_ms: z.coerce.number().optional().catch(undefined),
});

/** TAP, version 12 to 14, with subtests: a group counts by its tests and not itself. */
function readTap(text: string): Read<readonly TestCase[]> {
  if (!/^(?:TAP version|\s*(?:not )?ok\b|\d+\.\.\d+)/m.test(text))
    return { ok: false, why: 'it is neither JUnit XML nor TAP' };
  const found: TestCase[] = [];
  walkTap(TapParser.parse(text), '', found);
  return { ok: true, value: found };
}

function walkTap(events: readonly unknown[], group: string, found: TestCase[]): void {
  let children: readonly unknown[] | null = null;
  for (const event of events) {
    if (!Array.isArray(event)) continue;
    const [kind, value] = event as readonly unknown[];
    if (kind === 'child' && Array.isArray(value)) children = value;
    if (kind !== 'assert' || typeof value !== 'object' || value === null) continue;
    const assert = value as {
      ok: boolean;
      name: string;
      skip: unknown;
      todo: unknown;
      diag: unknown;
      time: number | null;
    };
    const name = group === '' ? assert.name : `${group} › ${assert.name}`;
    const nested: readonly unknown[] = children ?? [];
    children = null;
    if (nested.some((each) => Array.isArray(each) && each[0] === 'assert'))
      walkTap(nested, name, found);
    else found.push(tapCase(assert, name));
  }
}

interface TapAssert {
  readonly ok: boolean;
  readonly skip: unknown;
  readonly todo: unknown;
  readonly diag: unknown;
  readonly time: number | null;
}

function tapCase(assert: TapAssert, name: string): TestCase {
  const read = diagnostic.safeParse(assert.diag ?? {});
  const said = read.success ? read.data : {};
  const isSkipped = Boolean(assert.skip) || Boolean(assert.todo);
  const state = isSkipped ? 'skipped' : assert.ok ? 'passed' : 'failed';
  const isFailure = state === 'failed';
  return {
    name: name || 'a test without a name',
    state,
    tookMs: Math.round(said.duration_ms ?? assert.time ?? 0) || null,
    message: isFailure ? ((said.error ?? said.message ?? null)?.slice(0, 1000) ?? null) : null,
    place: isFailure ? tapPlace(said) : null,
  };
}

function tapPlace({ location, at }: z.output<typeof diagnostic>): string | null {
  if (location !== undefined) return repositoryPath(location);
  if (at === undefined) return null;
  return repositoryPath(typeof at === 'string' ? at : `${at.file}:${at.line}`);
}
