import type { MoveReply } from '@vaquero/contracts';
import { allow, type Digest, decideLetIn, type Offer, type Seen } from '@vaquero/core';
import { and, eq, inArray, lt } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { artifacts, builds, intakes } from '../database/tables.ts';
import { onCommit } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { type EnvironmentRow, environmentNow } from '../environments/environment-rows.ts';
import { Impossible, orRefuse } from '../refused.ts';
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
      const own = eq(intakes.environmentId, targetRow.id);
      onCommit(
        tx,
        tx
          .update(intakes)
          .set({ state: 'deployed' })
          .where(and(own, eq(intakes.intake, intake))),
        tx
          .update(intakes)
          .set({ state: 'overtaken' })
          .where(
            and(own, lt(intakes.intake, intake), inArray(intakes.state, ['waiting', 'offered'])),
          ),
      );
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

interface Found extends Offer {
  readonly intake: number;
  readonly buildId: string | null;
  readonly commitId: string | null;
}

/** A build as an environment has it: offered or not. */
async function offerOf(
  db: Db | Tx,
  { id, projectId }: EnvironmentRow,
  build: number,
): Promise<Found> {
  const [row] = await db
    .select({
      intake: intakes.intake,
      state: intakes.state,
      buildId: builds.id,
      commitId: builds.commitId,
      artifact: builds.artifact,
      goneAt: artifacts.goneAt,
    })
    .from(builds)
    .innerJoin(intakes, and(eq(intakes.buildId, builds.id), eq(intakes.environmentId, id)))
    .leftJoin(
      artifacts,
      and(eq(artifacts.projectId, builds.projectId), eq(artifacts.digest, builds.artifact)),
    )
    .where(and(eq(builds.projectId, projectId), eq(builds.number, build)));
  if (row === undefined)
    return {
      build,
      artifact: null,
      isOffered: false,
      kept: false,
      intake: 0,
      buildId: null,
      commitId: null,
    };
  const { goneAt, state, artifact, ...found } = row;
  return {
    ...found,
    build,
    artifact: artifact as Digest | null,
    isOffered: state === 'offered',
    kept: goneAt === null,
  };
}
