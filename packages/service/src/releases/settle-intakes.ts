import { allow, type Digest, decideAutomaticDeploy, type RefusalCode } from '@vaquero/core';
import { and, asc, desc, eq, inArray } from 'drizzle-orm';
import { byVaquero, type Doing } from '../audit/record.ts';
import { builds, changes, environments, intakes, projects } from '../database/tables.ts';
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

/** After a hold is lifted: the newest intake that the hold stopped goes live, older ones are overtaken. */
export async function settleHeld(deps: Deps, environmentId: string): Promise<void> {
  const stopped = await deps.db
    .select({ intake: intakes.intake })
    .from(intakes)
    .where(and(eq(intakes.environmentId, environmentId), eq(intakes.state, 'held')))
    .orderBy(desc(intakes.intake));
  const [newest, ...older] = stopped;
  if (newest === undefined) return;
  if (older.length > 0) {
    await deps.db
      .update(intakes)
      .set({ state: 'overtaken' })
      .where(
        and(
          eq(intakes.environmentId, environmentId),
          inArray(
            intakes.intake,
            older.map((row) => row.intake),
          ),
        ),
      );
  }
  await deps.db
    .update(intakes)
    .set({ state: 'waiting' })
    .where(and(eq(intakes.environmentId, environmentId), eq(intakes.intake, newest.intake)));
  await settleAll(deps);
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
    const state = await deployOne(deps, one);
    await deps.db
      .update(intakes)
      .set({ state })
      .where(
        and(
          eq(intakes.environmentId, one.environment.id),
          eq(intakes.intake, one.intake.intake),
          eq(intakes.state, 'waiting'),
        ),
      );
    deps.events.tell(one.project.id, { what: 'environment' });
  }
}

const outcomes: Partial<Record<RefusalCode, 'held' | 'overtaken' | 'failed'>> = {
  'environment-held': 'held',
  overtaken: 'overtaken',
  'immutable-changed': 'failed',
};

async function deployOne(
  deps: Deps,
  { intake, environment, project, build, actorId }: Ready,
): Promise<'deployed' | 'held' | 'overtaken' | 'failed'> {
  const doing: Doing =
    actorId === null
      ? byVaquero
      : { actor: { kind: 'person', id: actorId }, through: 'git', origin: null };
  try {
    await goLive(deps, {
      project,
      environment,
      now: null,
      other: null,
      kind: 'automatic',
      artifact: build.artifact as Digest,
      doing,
      reason: null,
      claim: () => undefined,
      decide: ({ target }) => {
        const decision = decideAutomaticDeploy(target, intake.intake);
        if (!decision.ok) return Promise.resolve(decision);
        return Promise.resolve(
          allow({
            artifact: build.artifact as Digest,
            buildId: build.id,
            build: build.number,
            commitId: build.commitId,
            intake: intake.intake,
            undoes: null,
          }),
        );
      },
    });
    return 'deployed';
  } catch (error) {
    const outcome = error instanceof Refused ? outcomes[error.refusal.code] : undefined;
    if (outcome === undefined || !(error instanceof Refused)) throw error;
    // Served under this very intake: a process that died had committed it and not come to say so here.
    if (error.refusal.code === 'overtaken' && error.refusal.served === intake.intake)
      return 'deployed';
    deps.log.info(
      { project: project.name, environment: environment.name, build: build.number, outcome },
      'automatic deploy stopped',
    );
    return outcome;
  }
}
