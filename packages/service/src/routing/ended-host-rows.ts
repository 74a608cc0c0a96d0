import type { RoutingTable } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import { desc, eq, gt } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import { deploys, environments, people, projects } from '../database/tables.ts';
import { hostOfEnvironment } from '../projects/addresses.ts';

/** How long, and how many, hosts of what ended say so; then they stand for nothing. */
const saysEndedMs = 30 * 86_400_000;
const mostEnded = 1_000;

/** Hosts of environments that ended lately, the newest end of each last. */
export async function endedHosts(
  deps: Deps,
): Promise<readonly (readonly [string, RoutingTable['ended'][string]])[]> {
  const rows = await deps.db
    .select({
      project: projects.name,
      environment: environments.name,
      place: environments.place,
      at: environments.endedAt,
      because: environments.endedBecause,
      by: people.shownAs,
      artifact: deploys.artifact,
    })
    .from(environments)
    .innerJoin(projects, eq(projects.id, environments.projectId))
    .leftJoin(people, eq(people.id, environments.endedBy))
    .leftJoin(deploys, eq(deploys.id, environments.endedDeployId))
    // What lives again has no end any more.
    .where(gt(environments.endedAt, deps.clock() - saysEndedMs))
    .orderBy(desc(environments.endedAt))
    .limit(mostEnded);
  return rows.toReversed().flatMap(({ place, at, because, artifact, ...row }) =>
    at === null
      ? []
      : [
          [
            hostOfEnvironment(deps.config, row.project, { name: row.environment, place }),
            {
              ...row,
              at: at as Instant,
              because: because ?? 'unruled',
              artifact: artifact,
            },
          ] as const,
        ],
  );
}
