import type { CommitId, Offer } from '@vaquero/core';
import { and, desc, eq, inArray, lt, notInArray } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { artifacts, builds, intakes } from '../database/tables.ts';
import { onCommit } from '../database/transaction.ts';

/** A build as an environment has it, offered or not. */
export interface OfferRow extends Offer {
  readonly intake: number;
  readonly buildId: string | null;
  readonly commitId: CommitId | null;
}

/** A build as an environment has it: offered or not. */
export async function offerOf(
  db: Db | Tx,
  { id, projectId }: { readonly id: string; readonly projectId: string },
  build: number,
): Promise<OfferRow> {
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
    artifact: artifact,
    isOffered: state === 'offered',
    kept: goneAt === null,
  };
}

/** Notes that an offer is let in, when its transaction commits: what was noticed before it is overtaken. */
export function letInOnCommit(tx: Tx, environmentId: string, intake: number): void {
  const own = eq(intakes.environmentId, environmentId);
  onCommit(
    tx,
    tx
      .update(intakes)
      .set({ state: 'deployed' })
      .where(and(own, eq(intakes.intake, intake))),
    tx
      .update(intakes)
      .set({ state: 'overtaken' })
      .where(and(own, lt(intakes.intake, intake), inArray(intakes.state, ['waiting', 'offered']))),
  );
}

/** When a hold is lifted: the newest intake that it stopped may go live, older ones are overtaken. */
export async function releaseHeld(tx: Tx, environmentId: string): Promise<void> {
  const held = and(eq(intakes.environmentId, environmentId), eq(intakes.state, 'held'));
  const [newest] = await tx
    .select({ intake: intakes.intake })
    .from(intakes)
    .where(held)
    .orderBy(desc(intakes.intake))
    .limit(1);
  if (newest === undefined) return;
  const isNewest = eq(intakes.intake, newest.intake);
  await tx.update(intakes).set({ state: 'waiting' }).where(and(held, isNewest));
  await tx.update(intakes).set({ state: 'overtaken' }).where(held);
}

/** When a map lets in by itself what it offered before: the newest offer goes live, as any other that passed. */
export async function releaseOffered(tx: Tx, environmentId: string): Promise<void> {
  await tx
    .update(intakes)
    .set({ state: 'waiting' })
    .where(and(eq(intakes.environmentId, environmentId), eq(intakes.state, 'offered')));
}

/** Marks what waited for a failed build. */
export async function failIntakes(tx: Tx, buildId: string): Promise<void> {
  await tx
    .update(intakes)
    .set({ state: 'failed' })
    .where(and(eq(intakes.buildId, buildId), eq(intakes.state, 'waiting')));
}

/** Has those environments that waited for a build wait for another one of its commit. */
export async function handIntakesOver(
  tx: Tx,
  build: string,
  other: { readonly id: string; readonly hasFailed: boolean },
  environmentIds: readonly string[],
): Promise<void> {
  if (environmentIds.length === 0) return;
  await tx
    .update(intakes)
    .set({ buildId: other.id, ...(other.hasFailed ? { state: 'failed' } : {}) })
    .where(and(eq(intakes.buildId, build), inArray(intakes.environmentId, [...environmentIds])));
}

/** Writes an intake down. */
export async function insertIntake(tx: Tx, row: typeof intakes.$inferInsert): Promise<void> {
  await tx.insert(intakes).values(row);
}

/** The statement that says what became of an intake, if it waits still. */
export function settleIntake(
  tx: Tx,
  environmentId: string,
  intake: number,
  state: Exclude<(typeof intakes.$inferInsert)['state'], 'waiting'>,
) {
  return tx
    .update(intakes)
    .set({ state })
    .where(
      and(
        eq(intakes.environmentId, environmentId),
        eq(intakes.intake, intake),
        eq(intakes.state, 'waiting'),
      ),
    );
}

/** Forgets what became of builds that ended before an instant, so many builds at most. */
export async function forgetIntakes(db: Db, before: number, most: number): Promise<void> {
  const ended = await db
    .selectDistinct({ build: intakes.buildId })
    .from(intakes)
    .innerJoin(builds, eq(builds.id, intakes.buildId))
    .where(
      and(inArray(intakes.state, ['deployed', 'overtaken', 'failed']), lt(builds.endedAt, before)),
    )
    .limit(most);
  if (ended.length === 0) return;
  const those = ended.map(({ build }) => build);
  await db
    .delete(intakes)
    .where(
      and(
        inArray(intakes.buildId, those),
        notInArray(intakes.state, ['waiting', 'offered', 'held']),
      ),
    );
}

/** What an environment still waited for is over with it. */
export async function overtakeOpen(tx: Tx, environmentId: string): Promise<void> {
  await tx
    .update(intakes)
    .set({ state: 'overtaken' })
    .where(
      and(
        eq(intakes.environmentId, environmentId),
        inArray(intakes.state, ['waiting', 'offered', 'held']),
      ),
    );
}
