import type { roleRoutes } from '@vaquero/contracts';
import type { z } from 'zod';
import type { BuildRecord } from '../builds/build-rows.ts';
import type { Deps } from '../deps.ts';
import { type EvidenceContent, keepEvidence } from './evidence-rows.ts';
import { readFindings } from './read-findings.ts';
import { readTests } from './read-tests.ts';
import type { Read } from './report-read.ts';

type Report = z.output<typeof roleRoutes.attemptReportRoute.body>;

/** Reads a report that a step wrote and keeps what it says; returns why it cannot be read, or null. */
export async function takeReport(
  deps: Deps,
  build: BuildRecord,
  { step, kind, path, text }: Report,
): Promise<string | null> {
  const read = readReport(kind, text);
  if (!read.ok) return read.why;
  await keepEvidence(deps.db, {
    id: deps.newId(),
    projectId: build.projectId,
    buildId: build.id,
    step,
    path,
    at: deps.clock(),
    ...read.value,
  });
  return null;
}

function readReport(kind: Report['kind'], text: string): Read<EvidenceContent> {
  if (kind === 'tests') {
    const read = readTests(text);
    return read.ok ? { ok: true, value: { kind, content: read.value } } : read;
  }
  if (kind === 'findings') {
    const read = readFindings(text);
    return read.ok ? { ok: true, value: { kind, content: read.value } } : read;
  }
  // Written by our own runner, as JSON of this shape.
  const content = JSON.parse(text) as { files: string[]; with: number | null };
  return { ok: true, value: { kind, content: { files: content.files, with: content.with } } };
}
