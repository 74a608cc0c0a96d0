import type { MoveReply } from '@vaquero/contracts';
import { allow, decideRollback, findWayBack, type RollbackTarget, type Seen } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { Impossible, orRefuse } from '../base/refused.ts';
import { environmentNow } from '../environments/environment-rows.ts';
import { decisionLedger } from '../environments/ledger-rows.ts';
import { goLive, type MoveCall } from './go-live.ts';

/** What a person asks for: back to a deploy, to a build's artifact, or to the latest good one. */
export interface RollbackWish {
  readonly to: RollbackTarget | null;
  readonly reason: string;
  readonly seen: Seen;
}

/**
 * Rolls back: the environment serves again what it served earlier, and is held until a person lifts
 * the hold, so that the next push does not undo it.
 * Refuses: what core's decision and going live refuse.
 */
export async function rollBack(
  deps: Deps,
  { project, environment, caller, keyed }: MoveCall,
  wish: RollbackWish,
): Promise<MoveReply> {
  // The way back is found twice: here for the edges to prepare, and under the lock to be sure.
  const reading = environmentNow(deps.db, environment);
  const [ledger, now] = await Promise.all([
    decisionLedger(deps.db, environment, wish.to, reading),
    reading,
  ]);
  const expected = orRefuse(findWayBack(now, ledger, wish.to));
  return goLive(deps, {
    project,
    environment,
    now,
    other: null,
    kind: 'rolled-back',
    artifact: expected.target.artifact,
    doing: caller.doing,
    reason: wish.reason,
    keyed,
    decide: async ({ tx, target, targetRow }) => {
      const locked =
        target === now ? ledger : await decisionLedger(tx, environment, wish.to, target);
      const decision = decideRollback(target, locked, wish.to, wish.seen);
      if (!decision.ok) return decision;
      const { target: back, undoes } = decision.value;
      const row = locked.find((entry) => entry.number === back.number);
      if (row === undefined) throw new Impossible('a way back that is not in the ledger');
      const { artifact, buildId, build, commitId } = row;
      return allow({ artifact, buildId, build, commitId, intake: targetRow.intake, undoes });
    },
  });
}
