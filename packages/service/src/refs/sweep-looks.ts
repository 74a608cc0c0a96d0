import { and, eq, inArray, isNull, lt, notInArray } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import { builds, changes, intakes } from '../database/tables.ts';

const keptMs = 90 * 86_400_000;
/** So many at once: nobody waits for it, and nothing is locked for long. */
const mostAtOnce = 2000;

/**
 * Forgets what looks left behind and nobody asks for any more: changes that no build came of, and intakes that ended,
 * both after 90 days. The log keeps what was seen, and the ledger what became of it.
 */
export async function sweepLooks(deps: Pick<Deps, 'db' | 'clock'>): Promise<void> {
  const { db } = deps;
  const before = deps.clock() - keptMs;
  const unbuilt = await db
    .select({ id: changes.id })
    .from(changes)
    .leftJoin(builds, eq(builds.changeId, changes.id))
    .where(and(lt(changes.at, before), isNull(builds.id)))
    .limit(mostAtOnce);
  if (unbuilt.length > 0)
    await db.delete(changes).where(
      inArray(
        changes.id,
        unbuilt.map(({ id }) => id),
      ),
    );
  const ended = await db
    .selectDistinct({ build: intakes.buildId })
    .from(intakes)
    .innerJoin(builds, eq(builds.id, intakes.buildId))
    .where(
      and(inArray(intakes.state, ['deployed', 'overtaken', 'failed']), lt(builds.endedAt, before)),
    )
    .limit(mostAtOnce);
  if (ended.length > 0)
    await db.delete(intakes).where(
      and(
        inArray(
          intakes.buildId,
          ended.map(({ build }) => build),
        ),
        notInArray(intakes.state, ['waiting', 'offered', 'held']),
      ),
    );
}
