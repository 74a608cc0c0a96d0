import type { Deps } from '../base/deps.ts';
import { keepFamilies } from '../families/keep-families.ts';
import { livingProjectsOf } from '../projects/project-rows.ts';

/** Has every project of a repository start and end what a change of its pull requests brings about; the loop finds what is missed. */
export async function keepFamiliesOf(deps: Deps, repositoryId: string): Promise<void> {
  for (const project of await livingProjectsOf(deps.db, repositoryId))
    await keepFamilies(deps, project).catch((err: unknown) =>
      deps.log.warn({ err, project: project.name }, 'its families were not kept'),
    );
}
