import { and, asc, eq, inArray } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import { builds, changes, environments, intakes, projects } from '../database/tables.ts';
import type { EnvironmentRow } from '../environments/environment-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';

/** A build that has passed and an environment that waits for it. */
export interface Ready {
  readonly intake: typeof intakes.$inferSelect;
  readonly environment: EnvironmentRow;
  readonly project: ProjectRow;
  readonly build: typeof builds.$inferSelect;
  readonly actorId: string | null;
}

/** What waits and may come in, oldest intake first. */
export async function readyWhere(
  deps: Deps,
  only: { readonly buildId?: string },
): Promise<readonly Ready[]> {
  const rows = await deps.db
    .select({
      intake: intakes,
      environment: environments,
      project: projects,
      build: builds,
      actorId: changes.actorId,
    })
    .from(intakes)
    .innerJoin(builds, eq(builds.id, intakes.buildId))
    .innerJoin(environments, eq(environments.id, intakes.environmentId))
    .innerJoin(projects, eq(projects.id, environments.projectId))
    .leftJoin(changes, eq(changes.id, intakes.changeId))
    .where(
      and(
        eq(intakes.state, 'waiting'),
        inArray(builds.state, ['passed', 'reused']),
        ...(only.buildId === undefined ? [] : [eq(intakes.buildId, only.buildId)]),
      ),
    )
    .orderBy(asc(intakes.environmentId), asc(intakes.intake));
  return rows;
}
