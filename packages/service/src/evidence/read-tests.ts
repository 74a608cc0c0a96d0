import { type TestCase, type TestReport, testReport } from '@vaquero/core';
import { Parser as TapParser } from 'tap-parser';
import { z } from 'zod';
import { readJUnit, textOf } from './read-junit.ts';
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

function tapCase(
  assert: { ok: boolean; skip: unknown; todo: unknown; diag: unknown; time: number | null },
  name: string,
): TestCase {
  const read = diagnostic.safeParse(assert.diag ?? {});
  const said = read.success ? read.data : {};
  const at = said.at;
  const place =
    said.location ??
    (typeof at === 'string' ? at : at === undefined ? null : `${at.file}:${at.line}`);
  const isSkipped = Boolean(assert.skip) || Boolean(assert.todo);
  return {
    name: name || 'a test without a name',
    state: isSkipped ? 'skipped' : assert.ok ? 'passed' : 'failed',
    tookMs: Math.round(said.duration_ms ?? assert.time ?? 0) || null,
    message: assert.ok ? null : ((said.error ?? said.message ?? null)?.slice(0, 1000) ?? null),
    place: assert.ok ? null : place,
  };
}
