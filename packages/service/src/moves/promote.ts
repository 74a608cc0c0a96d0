import type { MoveReply } from '@vaquero/contracts';
import {
  acceptsFrom,
  allow,
  type Digest,
  decidePromotion,
  type EnvironmentNow,
  type Seen,
  type ServedBefore,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { Impossible, orRefuse, refused } from '../base/refused.ts';
import { buildOfDeploy } from '../builds/build-rows.ts';
import type { Db, Tx } from '../database/pool.ts';
import {
  type EnvironmentRow,
  environmentByName,
  environmentNow,
} from '../environments/environment-rows.ts';
import { servedBefore } from '../environments/ledger-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import { goLive, type MoveCall } from './go-live.ts';

/** What a person asks for: this artifact, which that environment serves, as they saw both. */
export interface PromotionWish {
  readonly from: string;
  readonly artifact: Digest;
  readonly seen: Seen;
  readonly reason: string | null;
}

/**
 * Promotes: the environment serves the very artifact that its source serves, or has served. Nothing is built.
 * Refuses: not-found, and what core's decision and going live refuse.
 */
export async function promote(
  deps: Deps,
  { project, environment: target, caller, keyed }: MoveCall,
  wish: PromotionWish,
): Promise<MoveReply> {
  const [source, map] = await Promise.all([
    environmentByName(deps.db, project.id, wish.from),
    mapOf(deps.db, project),
  ]);
  const from = acceptsFrom(map, target.rule);
  if (source === undefined)
    return refused({ code: 'not-found', what: 'environment', name: wish.from });
  if (source.id === target.id)
    return refused({
      code: 'accepts-from',
      environment: target.name,
      from,
    });
  const decide = (now: EnvironmentNow, other: EnvironmentNow, before: ServedBefore | null) =>
    decidePromotion({
      target: now,
      source: other,
      acceptsFrom: from,
      artifact: wish.artifact,
      before,
      seen: wish.seen,
    });
  // Decided twice: here so that no edge prepares what will be refused, and under the locks to be sure.
  const [seenTarget, seenSource] = await Promise.all([
    environmentNow(deps.db, target),
    environmentNow(deps.db, source),
  ]);
  orRefuse(decide(seenTarget, seenSource, await beforeIn(deps.db, source, seenSource, wish)));
  return goLive(deps, {
    project,
    environment: target,
    now: seenTarget,
    other: source,
    kind: 'promoted',
    artifact: wish.artifact,
    doing: caller.doing,
    reason: wish.reason,
    keyed,
    decide: async ({ tx, target: now, targetRow, other, otherRow }) => {
      if (other === null || otherRow === null) throw new Impossible('a promotion locks its source');
      const before = await beforeIn(tx, otherRow, other, wish);
      const decision = decide(now, other, before);
      if (!decision.ok) return decision;
      const from = before?.id ?? otherRow.servesDeployId;
      if (from === null) throw new Impossible('what is promoted is served by its source');
      const build = await buildOfDeploy(tx, from);
      return allow({ ...build, artifact: wish.artifact, intake: targetRow.intake, undoes: null });
    },
  });
}

/** The source's deploy of what is to be promoted, where it serves something else by now. */
async function beforeIn(
  db: Db | Tx,
  source: EnvironmentRow,
  { serves }: EnvironmentNow,
  { artifact }: PromotionWish,
): ReturnType<typeof servedBefore> {
  return serves === null || serves.artifact === artifact
    ? null
    : servedBefore(db, source, artifact);
}
