import { buildRoutes } from '@vaquero/contracts';
import type { Installation } from './installation.ts';

/** Says on stderr when the parts of a project's newest builds began and ended, in ms from their queueing. */
export async function trace(here: Installation, project: string): Promise<void> {
  const { builds } = await here.client.call(buildRoutes.listBuildsRoute, {
    params: { project },
    query: { limit: 3 },
  });
  for (const { number } of builds) {
    const build = await here.client.call(buildRoutes.showBuildRoute, {
      params: { project, build: number },
    });
    const since = (at: number | null): number => (at ?? Number.NaN) - build.queuedAt;
    const parts = build.steps
      .slice(0, 8)
      .map((step) => `${step.name} ${since(step.startedAt)} to ${since(step.endedAt)}`);
    process.stderr.write(`  build ${number}: ${parts.join(', ')}, end ${since(build.endedAt)}\n`);
  }
}
