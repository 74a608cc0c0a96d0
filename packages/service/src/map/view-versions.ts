import { type MapVersionsReply, readMap } from '@vaquero/contracts';
import { compareRules } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { Impossible } from '../base/refused.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { type MapVersion, versionsOf } from './map-rows.ts';

/** Every version of a project's map, the newest first, each with what it says otherwise than the one before it. */
export async function viewVersions(deps: Deps, project: ProjectRow): Promise<MapVersionsReply> {
  const versions = await versionsOf(deps.db, project.id);
  const read = versions.map(({ version, text }) => readVersion(project, { version, text }));
  return {
    versions: versions.map((one, place) => {
      const [map, before] = [read[place], read[place + 1]];
      const changes = map === undefined || before === undefined ? [] : compareRules(before, map);
      return { ...one, changes: [...changes] };
    }),
  };
}

function readVersion({ id, branch }: ProjectRow, one: Pick<MapVersion, 'version' | 'text'>) {
  const read = readMap(one.text, one.version, branch);
  if (!read.ok) throw new Impossible(`map ${one.version} of project ${id} cannot be read`);
  return read.value;
}
