import type { MoveReply } from '@vaquero/contracts';
import { allow, type Digest, decideRollback, findWayBack, type Seen } from '@vaquero/core';
import { and, eq } from 'drizzle-orm';
import { deploys } from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import {
  decisionLedger,
  environmentByName,
  environmentNow,
} from '../environments/environment-rows.ts';
import type { Caller } from '../people/caller.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { orRefuse, refused } from '../refused.ts';
import { goLive } from './go-live.ts';

/** What a person asks for: back to a deploy, to a build's artifact, or to the latest good one. */
export interface RollbackWish {
  readonly environment: string;
  readonly to: { readonly deploy: number } | { readonly build: number } | null;
  readonly reason: string;
  readonly seen: Seen;
}

/**
 * Rolls back: the environment serves again what it served earlier, and is held until a person lifts
 * the hold, so that the next push does not undo it.
 * Refuses: not-found, and what core's decision and going live refuse.
 */
export async function rollBack(
  deps: Deps,
  project: ProjectRow,
  wish: RollbackWish,
  caller: Caller,
): Promise<MoveReply> {
  const environment = await environmentByName(deps.db, project.id, wish.environment);
  if (environment === undefined)
    return refused({ code: 'not-found', what: 'environment', name: wish.environment });
  // The way back is found twice: here for the edges to prepare, and under the lock to be sure.
  const ledger = await decisionLedger(deps.db, environment.id);
  const expected = orRefuse(
    findWayBack(await environmentNow(deps.db, environment), ledger, wish.to),
  );
  return goLive(deps, {
    project,
    environment,
    other: null,
    kind: 'rolled-back',
    artifact: expected.target.artifact as Digest,
    doing: caller.doing,
    reason: wish.reason,
    decide: async ({ tx, target, targetRow, ledger: lockedLedger }) => {
      const decision = decideRollback(target, await lockedLedger(), wish.to, wish.seen);
      if (!decision.ok) return decision;
      const { target: back, undoes } = decision.value;
      const [row] = await tx
        .select({ buildId: deploys.buildId, commitId: deploys.commitId })
        .from(deploys)
        .where(and(eq(deploys.environmentId, targetRow.id), eq(deploys.number, back.number)));
      if (row === undefined) return refused({ code: 'no-way-back', environment: target.name });
      return allow({ ...row, artifact: back.artifact, intake: targetRow.intake, undoes });
    },
  });
}
