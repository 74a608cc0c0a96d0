import { type Digest, type Instant, later } from '@vaquero/core';
import { and, desc, eq, gt, inArray, isNotNull, isNull, ne, or } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Deps } from '../base/deps.ts';
import { deploys, environments, inspections } from '../database/tables.ts';

/** How long open pages keep the assets of the artifact that was served before. */
export const earlierMs = 3_600_000;

const previous = alias(deploys, 'previous');

/**
 * What moves of the last hour have taken out of some environments, by environment, the newest first. What a secret was found in is not
 * among it: nobody gets it any more from the move on that took it out.
 */
export async function takenOutLately(
  deps: Deps,
  environmentIds: readonly string[],
): Promise<ReadonlyMap<string, readonly { artifact: Digest; until: number }[]>> {
  const rows = await deps.db
    .select({ id: deploys.environmentId, at: deploys.committedAt, artifact: previous.artifact })
    .from(deploys)
    .innerJoin(previous, eq(previous.id, deploys.previousDeployId))
    .innerJoin(environments, eq(environments.id, deploys.environmentId))
    .leftJoin(
      inspections,
      and(
        eq(inspections.projectId, environments.projectId),
        eq(inspections.artifact, previous.artifact),
      ),
    )
    .where(
      and(
        inArray(deploys.environmentId, [...environmentIds]),
        gt(deploys.committedAt, deps.clock() - earlierMs),
        isNotNull(deploys.previousDeployId),
        ne(previous.artifact, deploys.artifact),
        or(isNull(inspections.leaks), eq(inspections.leaks, false)),
      ),
    )
    .orderBy(desc(deploys.committedAt), desc(deploys.number));
  const taken = new Map<string, { artifact: Digest; until: number }[]>();
  for (const { id, at, artifact } of rows) {
    const all = taken.get(id) ?? [];
    all.push({ artifact, until: later(at as Instant, earlierMs) });
    taken.set(id, all);
  }
  return taken;
}
