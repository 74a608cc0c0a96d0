import type { Instant } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import type { Tx } from '../database/pool.ts';
import { failIntakes } from '../intakes/intake-rows.ts';
import { endAttempt, runningAttempts } from './attempt-rows.ts';
import { endBuild } from './build-change-rows.ts';
import { packLog } from './log-rows.ts';

/** Ends a build that waits or runs, and what waits for it; returns the ids of the attempts that ran. */
export async function endOpenBuild(tx: Tx, id: string, at: Instant): Promise<readonly string[]> {
  const running = await runningAttempts(tx, id);
  for (const attempt of running) await endAttempt(tx, attempt, 'cancelled');
  await endBuild(tx, id, { state: 'cancelled', at });
  await failIntakes(tx, id);
  return running;
}

/** Ends the logs of attempts, once their end is committed. */
export async function closeLogs(deps: Deps, ended: readonly string[]): Promise<void> {
  for (const id of ended) {
    await packLog(deps.db, id);
    deps.logs.tell(id, null);
  }
}
