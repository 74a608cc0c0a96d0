import { areForOthers } from '@vaquero/core';
import { and, eq, exists, inArray, isNotNull, lt, ne, not } from 'drizzle-orm';
import { byVaquero, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import type { Tx } from '../database/pool.ts';
import { type Aim, builds, environments, intakes } from '../database/tables.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { endOpenBuild } from './end-open-build.ts';
import { isForTop, type PreparedBuild } from './prepare-builds.ts';

/**
 * Ends the open builds of older commits of a ref, where a rule of the map that wants it says so. What the top
 * waits for is never ended, nor what a person or a schedule asked for.
 */
export async function overtakeOlder(
  deps: Deps,
  tx: Tx,
  {
    project,
    ref,
    recipe,
    build,
    by,
  }: {
    readonly project: ProjectRow;
    readonly ref: string;
    readonly recipe: string;
    readonly build: number;
    /** What was prepared of the newer commit. */
    readonly by: PreparedBuild;
  },
): Promise<readonly string[]> {
  const isStopping = by.destination.rules.some(({ overtaken }) => overtaken === 'stop');
  if (!isStopping || isForTop(by)) return [];
  const forTop = tx
    .select({ one: intakes.intake })
    .from(intakes)
    .innerJoin(environments, eq(environments.id, intakes.environmentId))
    .where(and(eq(intakes.buildId, builds.id), eq(environments.place, 0)));
  const older = await tx
    .select({ id: builds.id, number: builds.number, commit: builds.commitId, aim: builds.aim })
    .from(builds)
    .where(
      and(
        eq(builds.projectId, project.id),
        eq(builds.ref, ref),
        eq(builds.recipeName, recipe),
        lt(builds.number, build),
        inArray(builds.state, ['queued', 'running']),
        isNotNull(builds.changeId),
        ne(builds.commitId, by.commit.id),
        not(exists(forTop)),
      ),
    )
    .for('update');
  const ended: string[] = [];
  for (const one of older.filter(({ aim }) => isForTheSame(aim, by)))
    ended.push(...(await endOne(deps, tx, project, one, build)));
  return ended;
}

/** A build of the same ref for other environments, which are given other values, has a newer one of its own. */
function isForTheSame(aim: Aim | null, { destination: { rules } }: PreparedBuild): boolean {
  return !areForOthers(
    rules.map(({ name }) => name),
    aim?.rules ?? [],
  );
}

async function endOne(
  deps: Deps,
  tx: Tx,
  project: ProjectRow,
  one: { readonly id: string; readonly number: number; readonly commit: string },
  by: number,
): Promise<readonly string[]> {
  const at = deps.clock();
  const running = await endOpenBuild(tx, one.id, at);
  await tx.update(builds).set({ overtakenBy: by }).where(eq(builds.id, one.id));
  decide(tx, {
    at,
    kind: 'build.overtaken',
    project,
    doing: byVaquero,
    facts: { build: one.number, commit: one.commit, by },
  });
  return running;
}
