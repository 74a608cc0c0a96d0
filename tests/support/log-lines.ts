import { buildRoutes } from '@vaquero/contracts';
import type { TestService } from './service.ts';

/** The lines of a build's log, those of one step or all. */
export async function linesOf(
  service: TestService,
  build: number,
  step?: string,
  project = 'timetable',
): Promise<readonly string[]> {
  const { lines } = await service.operator.call(buildRoutes.logLinesRoute, {
    params: { project, build },
    query: { limit: 5000, ...(step === undefined ? {} : { step }) },
  });
  return lines.map((line) => line.text);
}
