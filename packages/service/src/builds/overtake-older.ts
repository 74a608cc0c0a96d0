import { areForOthers } from '@vaquero/core';
import { byVaquero, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import type { Aim } from '../database/kept-shapes.ts';
import type { Tx } from '../database/pool.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { lockOlder, setBuild } from './build-change-rows.ts';
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
  const older = await lockOlder(tx, project.id, {
    ref,
    recipe,
    before: build,
    but: by.commit.id,
  });
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
  await setBuild(tx, one.id, { overtakenBy: by });
  decide(tx, {
    at,
    kind: 'build.overtaken',
    project,
    doing: byVaquero,
    facts: { build: one.number, commit: one.commit, by },
  });
  return running;
}
