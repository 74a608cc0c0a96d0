import { isOpen } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Done, NoteDone } from '../idempotency/kept-call-rows.ts';
import type { Caller } from '../people/caller.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { buildByNumber, lockBuild } from './build-rows.ts';
import { closeLogs, endOpenBuild } from './end-open-build.ts';

/**
 * Ends a build that waits or runs, by a person's word. Its runner learns of it by its next call, which is
 * refused, and stops what it runs; whatever it says later changes nothing.
 * Refuses: not-found, build-ended.
 */
export async function cancelBuild(
  deps: Deps,
  project: ProjectRow,
  number: number,
  caller: Caller,
  note: NoteDone,
): Promise<Done<number>> {
  const build = await buildByNumber(deps.db, project.id, number);
  if (build === undefined)
    return refused({ code: 'not-found', what: 'build', name: String(number) });
  const at = deps.clock();
  const [ended, done] = await inTransaction(deps.db, async (tx) => {
    const locked = await lockBuild(tx, build.id);
    if (!isOpen(locked.state))
      return refused({ code: 'build-ended', build: number, state: locked.state });
    const running = await endOpenBuild(tx, build.id, at);
    decide(tx, {
      at,
      kind: 'build.cancelled',
      project,
      doing: caller.doing,
      facts: { build: number },
    });
    return [running, note(tx, number)] as const;
  });
  await closeLogs(deps, ended);
  return done;
}
