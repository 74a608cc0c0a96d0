import type { HoldSeen } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { inTransaction } from '../database/transaction.ts';
import {
  environmentByName,
  environmentNow,
  lockEnvironments,
  raiseGeneration,
} from '../environments/environment-rows.ts';
import { liftHoldRow, standingHold } from '../environments/hold-rows.ts';
import type { Done, NoteDone } from '../idempotency/kept-call-rows.ts';
import { releaseHeld } from '../intakes/intake-rows.ts';
import type { Caller } from '../people/caller.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { settleAll } from './settle-intakes.ts';

/** A person's wish to lift a hold that they saw. */
export interface LiftWish {
  readonly project: ProjectRow;
  readonly name: string;
  readonly generation: number;
  readonly caller: Caller;
}

/** What is left of a hold that was lifted. */
export type Lifted = {
  environment: string;
  generation: number;
  hold: Pick<HoldSeen, 'by' | 'since' | 'reason' | 'liftedAt' | 'liftedBy'>;
};

/**
 * Lifts the hold of an environment. What its branch brought meanwhile goes live afterwards, if the
 * environment follows one.
 * Refuses: not-found, environment-not-held, environment-moved.
 */
export async function liftHold(
  deps: Deps,
  { project, name, generation, caller }: LiftWish,
  note: NoteDone,
): Promise<Done<Lifted>> {
  const environment = await environmentByName(deps.db, project.id, name);
  if (environment === undefined) return refused({ code: 'not-found', what: 'environment', name });
  const at = deps.clock();
  const done = await inTransaction(deps.db, async (tx) => {
    const row = (await lockEnvironments(tx, [environment.id])).get(environment.id) ?? environment;
    const standing = await standingHold(tx, row.id);
    if (standing === null) return refused({ code: 'environment-not-held', environment: name });
    if (row.generation !== generation) {
      const { serves } = await environmentNow(tx, row);
      return refused({
        code: 'environment-moved',
        environment: name,
        seen: null,
        now: serves?.artifact ?? null,
        deploy: serves?.deploy ?? 0,
        by: serves?.by ?? 'nobody yet',
        at: serves?.at ?? (0 as Instant),
      });
    }
    await liftHoldRow(tx, row.id, caller.personId, at);
    await raiseGeneration(tx, row);
    await releaseHeld(tx, row.id);
    decide(tx, {
      at,
      kind: 'environment.hold-lifted',
      project,
      doing: caller.doing,
      facts: { environment: name, since: standing.since },
      before: { hold: { since: standing.since } },
      after: { hold: null },
    });
    const { by, reason } = standing;
    const since = standing.since as Instant;
    return note(tx, {
      environment: name,
      generation: generation + 1,
      hold: { by, since, reason, liftedAt: at, liftedBy: caller.shownAs },
    });
  });
  // The hold is lifted whatever comes of what waited; a deploy that fails here is tried again by the loop.
  await settleAll(deps).catch((err: unknown) =>
    deps.log.warn({ err, environment: name }, 'deploys behind a lifted hold wait'),
  );
  return done;
}
