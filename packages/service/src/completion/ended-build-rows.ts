import type { buildRoutes } from '@vaquero/contracts';
import type { BuildState, Instant } from '@vaquero/core';
import { and, desc, eq, gt, isNull } from 'drizzle-orm';
import type { z } from 'zod';
import type { Deps } from '../base/deps.ts';
import { builds, projects } from '../database/tables.ts';
import { type Caller, maySee } from '../people/caller.ts';

const mostTold = 20;

/** The builds that somebody began and that ended after an instant, of projects that they may see; the newest first. */
export async function endedBuilds(
  deps: Deps,
  caller: Caller,
  since: Instant,
): Promise<z.output<typeof buildRoutes.endedBuildsRoute.reply>> {
  const now = deps.clock();
  const rows = await deps.db
    .select({
      projectId: builds.projectId,
      project: projects.name,
      number: builds.number,
      state: builds.state,
      ref: builds.ref,
      subject: builds.subject,
      endedAt: builds.endedAt,
    })
    .from(builds)
    .innerJoin(projects, and(eq(projects.id, builds.projectId), isNull(projects.endedAt)))
    .where(and(eq(builds.begunBy, caller.personId), gt(builds.endedAt, since)))
    .orderBy(desc(builds.endedAt))
    .limit(mostTold);
  return {
    now,
    builds: rows
      .filter(({ projectId }) => maySee(caller, projectId))
      .map(({ projectId: _, state, endedAt, ...row }) => ({
        ...row,
        state: state as BuildState,
        endedAt: endedAt as Instant,
      })),
  };
}
