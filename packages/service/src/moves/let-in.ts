import type { MoveReply } from '@vaquero/contracts';
import { allow, decideLetIn, type Seen } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { Impossible, orRefuse } from '../base/refused.ts';
import { environmentNow } from '../environments/environment-rows.ts';
import { letInOnCommit, offerOf } from '../intakes/intake-rows.ts';
import { goLive, type MoveCall } from './go-live.ts';

/** The build that a person lets in, with the environment as they saw it. */
export interface LetInWish {
  readonly build: number;
  readonly seen: Seen;
  readonly reason: string | null;
}

/**
 * Lets in what passed and waits for somebody's word. What was noticed before it is overtaken.
 * Refuses: what core's decision and going live refuse.
 */
export async function letIn(
  deps: Deps,
  { project, environment, caller, keyed }: MoveCall,
  wish: LetInWish,
): Promise<MoveReply> {
  const [now, offer] = await Promise.all([
    environmentNow(deps.db, environment),
    offerOf(deps.db, environment, wish.build),
  ]);
  // Decided twice: here so that no edge prepares what will be refused, and under the lock to be sure.
  const artifact = orRefuse(decideLetIn(now, offer, wish.seen));
  return goLive(deps, {
    project,
    environment,
    now,
    other: null,
    kind: 'let-in',
    artifact,
    doing: caller.doing,
    reason: wish.reason,
    keyed,
    decide: async ({ tx, target, targetRow }) => {
      const under = await offerOf(tx, targetRow, wish.build);
      const decision = decideLetIn(target, under, wish.seen);
      if (!decision.ok) return decision;
      const { buildId, commitId, intake } = under;
      if (buildId === null || commitId === null) throw new Impossible('an offer without its build');
      letInOnCommit(tx, targetRow.id, intake);
      return allow({
        artifact: decision.value,
        buildId,
        build: wish.build,
        commitId,
        intake: Math.max(intake, target.serves?.intake ?? 0),
        undoes: null,
      });
    },
  });
}
