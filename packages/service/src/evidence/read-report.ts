import type { roleRoutes } from '@vaquero/contracts';
import { z } from 'zod';
import type { EvidenceContent } from './evidence-rows.ts';
import { readFindings } from './read-findings.ts';
import { readTests } from './read-tests.ts';
import type { Read } from './report-read.ts';

/** What a runner hands over of a step. */
export type Report = z.output<typeof roleRoutes.attemptReportRoute.body>;

const differences = z.object({
  files: z.array(z.string()).max(100_000),
  with: z.number().nullable(),
});

/** Reads a report by its kind. Of whatever text: it says what it read, or why it cannot. */
export function readReport(kind: Report['kind'], text: string): Read<EvidenceContent> {
  if (kind === 'tests') {
    const read = readTests(text);
    return read.ok ? { ok: true, value: { kind, content: read.value } } : read;
  }
  if (kind === 'findings') {
    const read = readFindings(text);
    return read.ok ? { ok: true, value: { kind, content: read.value } } : read;
  }
  const read = differences.safeParse(jsonOf(text));
  return read.success
    ? { ok: true, value: { kind, content: read.data } }
    : { ok: false, why: 'it is no list of files' };
}

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined; // What is no JSON is no list either: the schema says so.
  }
}
