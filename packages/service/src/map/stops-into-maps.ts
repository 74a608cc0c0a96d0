import { readMap } from '@vaquero/contracts';
import { parseDocument } from 'yaml';
import { byVaquero } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { Impossible, orRefuse } from '../base/refused.ts';
import { inTransaction } from '../database/transaction.ts';
import {
  forgetStops,
  lockedProject,
  projectById,
  projectsWithStops,
} from '../projects/project-rows.ts';
import { mapOf, versionsOf } from './map-rows.ts';
import { writeVersion } from './write-version.ts';

const reason = 'What stops a build stood beside the map up to 0.13, and stands in it now.';

/**
 * Up to 0.13 what stops a build stood beside the map: it becomes the map's own words, as a version of it with its reason.
 * What was written stays as it was, comments too.
 */
export async function stopsIntoMaps(deps: Deps): Promise<void> {
  for (const id of await projectsWithStops(deps.db)) await moveOne(deps, id);
}

async function moveOne(deps: Deps, projectId: string): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    await lockedProject(tx, projectId);
    const project = await projectById(tx, projectId);
    const [newest] = await versionsOf(tx, projectId, 1);
    // Another process of this start was here first.
    if (project.holding === null) return;
    if (newest === undefined) throw new Impossible(`project ${projectId} has no map`);
    const { environments } = await mapOf(tx, project);
    const document = parseDocument(newest.text);
    for (const { name, kind } of environments)
      if (kind !== 'accepts') document.setIn(['environments', name, 'stops'], project.holding);
    const version = project.mapVersion + 1;
    const text = document.toString({ lineWidth: 0 });
    orRefuse(readMap(text, version, project.branch));
    const next = { version, text, reason, made: [], ended: [] };
    await writeVersion(tx, project, next, { doing: byVaquero, personId: null, at: deps.clock() });
    await forgetStops(tx, projectId);
  });
}
