import type { Deps } from '../base/deps.ts';
import { buildById } from '../builds/build-rows.ts';
import { compareBuilds } from '../comparisons/compare-builds.ts';
import { mapOf } from '../map/map-rows.ts';
import { asksForPictures } from '../pictures/want-pictures.ts';
import { projectById } from '../projects/project-rows.ts';
import { servedWhere } from '../refs/what-compares.ts';

/**
 * Has pictures taken of what a build that passed changes where it would go, if the map asks for them: they are there when
 * somebody looks. What is compared with something else is pictured when that is asked for.
 */
export async function wantPicturesOf(deps: Deps, buildId: string): Promise<void> {
  const build = await buildById(deps.db, buildId);
  if (build.artifact === null) return;
  const project = await projectById(deps.db, build.projectId);
  const map = await mapOf(deps.db, project);
  if (!asksForPictures(map, build)) return;
  const served = await servedWhere(deps, project, build.proposedInto ?? map.trunk);
  if (served === null || served.before === build.number) return;
  await compareBuilds(deps, project, { before: served.before, after: build.number });
}
