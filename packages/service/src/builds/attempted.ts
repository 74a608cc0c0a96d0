import type { Deps } from '../base/deps.ts';
import { type ProjectRow, projectById } from '../projects/project-rows.ts';
import type { AttemptRow } from './attempt-rows.ts';
import type { BuildRecord } from './build-rows.ts';
import { buildById } from './build-rows.ts';

/** An attempt with the build that it is one of. */
export interface Attempted {
  readonly attempt: AttemptRow;
  readonly build: BuildRecord;
  readonly project: ProjectRow;
}

/** Reads what an attempt is one of. */
export async function attempted(deps: Deps, attempt: AttemptRow): Promise<Attempted> {
  const build = await buildById(deps.db, attempt.buildId);
  return { attempt, build, project: await projectById(deps.db, build.projectId) };
}
