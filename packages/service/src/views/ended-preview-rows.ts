import type { EndedBecause, Instant } from '@vaquero/core';
import { and, desc, eq, gt, isNotNull } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import { environments, people } from '../database/tables.ts';

const latelyMs = 30 * 86_400_000;
const mostTold = 50;

/** An environment of a family that ended, and why. */
interface EndedSeen {
  readonly name: string;
  readonly endedAt: Instant;
  readonly because: EndedBecause;
  readonly by: string | null;
}

/** Environments of a project's families that ended in the last thirty days, the newest end first; one that lives again has no end. */
export async function endedLately(deps: Deps, projectId: string): Promise<readonly EndedSeen[]> {
  const rows = await deps.db
    .select({
      name: environments.name,
      endedAt: environments.endedAt,
      because: environments.endedBecause,
      by: people.shownAs,
    })
    .from(environments)
    .leftJoin(people, eq(people.id, environments.endedBy))
    .where(
      and(
        gt(environments.endedAt, deps.clock() - latelyMs),
        eq(environments.projectId, projectId),
        isNotNull(environments.ref),
      ),
    )
    .orderBy(desc(environments.endedAt))
    .limit(mostTold);
  return rows.flatMap(({ endedAt, because, ...row }) =>
    endedAt === null
      ? []
      : [{ ...row, endedAt: endedAt as Instant, because: because ?? 'unruled' }],
  );
}
