import { buildRoutes, environmentRoutes } from '@vaquero/contracts';
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

/** Says on stderr when the parts of a project's newest build began and ended, in ms from the movement of its ref. */
export async function traceLive(
  here: Installation,
  project: string,
  refAt: number,
  liveAt: number,
): Promise<void> {
  const [newest] = (
    await here.client.call(buildRoutes.listBuildsRoute, {
      params: { project },
      query: { limit: 1 },
    })
  ).builds;
  if (newest === undefined) return;
  const build = await here.client.call(buildRoutes.showBuildRoute, {
    params: { project, build: newest.number },
  });
  const { environments } = await here.client.call(environmentRoutes.lanesRoute, {
    params: { project },
    query: { days: 1 },
  });
  const deploy = environments.find((one) => one.name === 'staging')?.serves;
  const since = (at: number | null | undefined): string => ((at ?? Number.NaN) - refAt).toFixed(0);
  const parts = build.steps.map(
    (step) => `${step.name} ${since(step.startedAt)} to ${since(step.endedAt)}`,
  );
  process.stderr.write(
    `  build ${build.number}: queued ${since(build.queuedAt)}, ${parts.join(', ')}, passed ${since(build.endedAt)}, committed ${since(deploy?.committedAt)}, live ${since(liveAt)}, confirmed ${since(deploy?.confirmedAt)}\n`,
  );
}
