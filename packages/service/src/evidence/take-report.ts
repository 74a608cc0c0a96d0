import type { Deps } from '../base/deps.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { keepEvidence } from './evidence-rows.ts';
import type { Report } from './read-report.ts';

/** Reads a report that a step wrote and keeps what it says; returns why it cannot be read, or null. */
export async function takeReport(
  deps: Deps,
  build: BuildRecord,
  { step, kind, path, text }: Report,
): Promise<string | null> {
  const read = await deps.reading.report(kind, text);
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
