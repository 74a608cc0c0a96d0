import type { CommitId, Instant } from '@vaquero/core';
import type { Tx } from '../database/pool.ts';
import { lockNamed, noteIntake } from '../environments/environment-rows.ts';
import { insertIntake } from '../intakes/intake-rows.ts';

/** Has environments of a project take notice of a build: each gives it its next number. Locks them in the order of their ids. */
export async function takeIn(
  tx: Tx,
  projectId: string,
  names: readonly string[],
  head: CommitId,
  touchedAt: Instant,
  row: { buildId: string; changeId: string | null; state: 'waiting' | 'failed' },
): Promise<void> {
  for (const environment of await lockNamed(tx, projectId, names)) {
    const intake = environment.intake + 1;
    await noteIntake(tx, environment.id, { intake, head, touchedAt });
    await insertIntake(tx, { environmentId: environment.id, intake, ...row });
  }
}
