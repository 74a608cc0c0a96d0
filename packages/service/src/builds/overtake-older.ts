import { and, eq, exists, inArray, isNotNull, lt, not } from 'drizzle-orm';
import { byVaquero, record } from '../audit/record.ts';
import type { Tx } from '../database/pool.ts';
import { attempts, builds, environments, intakes } from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { endAttempt, endBuild } from './build-rows.ts';
import { failIntakes } from './claim.ts';
import { packLog } from './log-rows.ts';

/** An attempt that was ended inside a transaction; its log is packed behind it. */
export interface EndedAttempt {
  readonly id: string;
  readonly projectId: string;
  readonly build: number;
}

/**
 * Ends the open builds of older commits of a ref, where an environment that wants it says so. What
 * production waits for is never ended, nor what a person or a schedule asked for.
 */
export async function overtakeOlder(
  deps: Deps,
  tx: Tx,
  {
    project,
    ref,
    recipe,
    build,
    environments: names,
  }: {
    readonly project: ProjectRow;
    readonly ref: string;
    readonly recipe: string;
    readonly build: number;
    readonly environments: readonly string[];
  },
): Promise<readonly EndedAttempt[]> {
  if (names.length === 0 || names.includes('production')) return [];
  const [stopping] = await tx
    .select({ id: environments.id })
    .from(environments)
    .where(
      and(
        eq(environments.projectId, project.id),
        inArray(environments.name, [...names]),
        eq(environments.living, true),
        eq(environments.overtaken, 'stop'),
      ),
    )
    .limit(1);
  if (stopping === undefined) return [];
  const forProduction = tx
    .select({ one: intakes.intake })
    .from(intakes)
    .innerJoin(environments, eq(environments.id, intakes.environmentId))
    .where(and(eq(intakes.buildId, builds.id), eq(environments.name, 'production')));
  const older = await tx
    .select({ id: builds.id, number: builds.number, commit: builds.commitId })
    .from(builds)
    .where(
      and(
        eq(builds.projectId, project.id),
        eq(builds.ref, ref),
        eq(builds.recipeName, recipe),
        lt(builds.number, build),
        inArray(builds.state, ['queued', 'running']),
        isNotNull(builds.changeId),
        not(exists(forProduction)),
      ),
    )
    .for('update');
  const ended: EndedAttempt[] = [];
  for (const one of older) ended.push(...(await endOne(deps, tx, project, one, build)));
  return ended;
}

async function endOne(
  deps: Deps,
  tx: Tx,
  project: ProjectRow,
  one: { readonly id: string; readonly number: number; readonly commit: string },
  by: number,
): Promise<readonly EndedAttempt[]> {
  const at = deps.clock();
  const running = await tx
    .select({ id: attempts.id })
    .from(attempts)
    .where(and(eq(attempts.buildId, one.id), eq(attempts.state, 'running')));
  for (const attempt of running) await endAttempt(tx, attempt.id, 'cancelled');
  await endBuild(tx, one.id, { state: 'cancelled', at });
  await tx.update(builds).set({ overtakenBy: by }).where(eq(builds.id, one.id));
  await failIntakes(tx, one.id);
  await record(tx, {
    at,
    kind: 'build.overtaken',
    projectId: project.id,
    project: project.name,
    doing: byVaquero,
    facts: { build: one.number, commit: one.commit, by },
  });
  return running.map((attempt) => ({ id: attempt.id, projectId: project.id, build: one.number }));
}

/** Ends the logs of attempts that were overtaken, once that is committed. */
export async function closeLogs(deps: Deps, ended: readonly EndedAttempt[]): Promise<void> {
  for (const { id, projectId, build } of ended) {
    await packLog(deps.db, id);
    deps.events.tellLog(id, null);
    deps.events.tell(projectId, { what: 'build', build });
  }
}
