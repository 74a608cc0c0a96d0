import { allow, type Digest, decideAutomaticDeploy, type RefusalCode } from '@vaquero/core';
import { and, asc, desc, eq, inArray } from 'drizzle-orm';
import { byPerson, byVaquero, decide } from '../audit/record.ts';
import type { Tx } from '../database/pool.ts';
import { builds, changes, environments, intakes, projects } from '../database/tables.ts';
import { inTransaction, onCommit } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import type { EnvironmentRow } from '../environments/environment-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { Refused } from '../refused.ts';
import { goLive } from './go-live.ts';

interface Ready {
  readonly intake: typeof intakes.$inferSelect;
  readonly environment: EnvironmentRow;
  readonly project: ProjectRow;
  readonly build: typeof builds.$inferSelect;
  readonly actorId: string | null;
}

/** Brings in what waited for a build that has passed. */
export async function settleIntakesOf(deps: Deps, buildId: string): Promise<void> {
  await settle(deps, await readyWhere(deps, { buildId }));
}

/** Brings in every intake whose build has passed: what a process that died left undone. */
export async function settleAll(deps: Deps): Promise<void> {
  await settle(deps, await readyWhere(deps, {}));
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

async function readyWhere(
  deps: Deps,
  only: { readonly buildId?: string },
): Promise<readonly Ready[]> {
  const rows = await deps.db
    .select({
      intake: intakes,
      environment: environments,
      project: projects,
      build: builds,
      actorId: changes.actorId,
    })
    .from(intakes)
    .innerJoin(builds, eq(builds.id, intakes.buildId))
    .innerJoin(environments, eq(environments.id, intakes.environmentId))
    .innerJoin(projects, eq(projects.id, environments.projectId))
    .leftJoin(changes, eq(changes.id, intakes.changeId))
    .where(
      and(
        eq(intakes.state, 'waiting'),
        inArray(builds.state, ['passed', 'reused']),
        ...(only.buildId === undefined ? [] : [eq(intakes.buildId, only.buildId)]),
      ),
    )
    .orderBy(asc(intakes.environmentId), asc(intakes.intake));
  return rows;
}

async function settle(deps: Deps, ready: readonly Ready[]): Promise<void> {
  for (const one of ready) {
    const because = await deployOne(deps, one);
    if (because !== null) await passOver(deps, one, because);
  }
}

type Because = 'held' | 'overtaken' | 'failed';

/** Puts on record why what an environment waited for does not go live. */
async function passOver(
  deps: Deps,
  { intake: { intake }, environment, project, build }: Ready,
  because: Because,
): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    const [done] = await tx
      .update(intakes)
      .set({ state: because })
      .where(waitingAt(environment.id, intake));
    // Another api process has said so already.
    if (done.affectedRows === 0) return;
    decide(tx, {
      at: deps.clock(),
      kind: 'environment.passed-over',
      project,
      doing: byVaquero,
      facts: { environment: environment.name, build: build.number, intake, because },
    });
  });
  deps.log.info(
    { project: project.name, environment: environment.name, build: build.number, because },
    'automatic deploy stopped',
  );
}

function waitingAt(environmentId: string, intake: number) {
  return and(
    eq(intakes.environmentId, environmentId),
    eq(intakes.intake, intake),
    eq(intakes.state, 'waiting'),
  );
}

const outcomes: Partial<Record<RefusalCode, Because>> = {
  'environment-held': 'held',
  overtaken: 'overtaken',
  'immutable-changed': 'failed',
  // It has ended meanwhile.
  'not-found': 'overtaken',
};

/** Brings in one build; returns why it did not go live, or null. */
async function deployOne(
  deps: Deps,
  { intake: { intake }, environment, project, build, actorId }: Ready,
): Promise<Because | null> {
  try {
    await goLive(deps, {
      project,
      environment,
      now: null,
      other: null,
      kind: 'automatic',
      artifact: build.artifact as Digest,
      doing: actorId === null ? byVaquero : byPerson(actorId, 'git'),
      reason: null,
      keyed: null,
      beside: (tx) =>
        onCommit(
          tx,
          tx.update(intakes).set({ state: 'deployed' }).where(waitingAt(environment.id, intake)),
        ),
      decide: ({ target }) => {
        const decision = decideAutomaticDeploy(target, intake);
        if (!decision.ok) return Promise.resolve(decision);
        return Promise.resolve(
          allow({
            artifact: build.artifact as Digest,
            buildId: build.id,
            build: build.number,
            commitId: build.commitId,
            intake,
            undoes: null,
          }),
        );
      },
    });
    return null;
  } catch (error) {
    const because = error instanceof Refused ? outcomes[error.refusal.code] : undefined;
    if (because === undefined) throw error;
    return because;
  }
}
