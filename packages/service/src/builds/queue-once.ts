import type { Deps } from '../base/deps.ts';
import type { Tx } from '../database/pool.ts';
import { type QueueBuild, queueBuild, takeInto } from './queue-build.ts';

/** Builds that one look has queued, by project and inputs. */
export type Twins = Map<string, { readonly id: string; readonly number: number }>;

/**
 * Queues a build, unless the same look has queued one of the same inputs for another ref, as of a branch that is also
 * proposed: then its environments wait for that one. Returns the number of the build that they wait for.
 */
export async function queueOnce(
  deps: Deps,
  tx: Tx,
  twins: Twins,
  wanted: QueueBuild,
): Promise<number> {
  const { project, build } = wanted;
  const key = build.inputKey === null ? null : `${project.id} ${build.name} ${build.inputKey}`;
  const twin = key === null ? undefined : twins.get(key);
  if (twin !== undefined) {
    await takeInto(deps, tx, wanted, twin.id);
    return twin.number;
  }
  const queued = await queueBuild(deps, tx, wanted);
  if (key !== null) twins.set(key, queued);
  return queued.number;
}
