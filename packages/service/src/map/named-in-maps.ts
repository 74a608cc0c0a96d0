import type { Db, Tx } from '../database/pool.ts';
import { livingProjects } from '../projects/project-rows.ts';
import { mapOf } from './map-rows.ts';

/** Whether a map of any project gives rights to whoever has a name. */
export async function isNamedInMaps(db: Db | Tx, name: string): Promise<boolean> {
  for (const project of await livingProjects(db)) {
    const { environments } = await mapOf(db, project);
    const named = environments.flatMap(({ may }) => Object.values(may));
    if (named.some((who) => typeof who !== 'string' && who.includes(name))) return true;
  }
  return false;
}
