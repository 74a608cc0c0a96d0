import { type Finding, worstFirst } from '@vaquero/core';
import type { z } from 'zod';
import type { evidenceSeen } from './evidence-seen.ts';

/** Everything that the inspection and the reports of steps say against a build, the worst first. */
export function findingsOf({
  inspection,
  findings,
}: Pick<z.output<typeof evidenceSeen>, 'inspection' | 'findings'>): readonly Finding[] {
  return worstFirst([...(inspection?.findings ?? []), ...findings]);
}
