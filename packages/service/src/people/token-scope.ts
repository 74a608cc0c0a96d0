import type { peopleRoutes } from '@vaquero/contracts';
import { ruleNamed, type Scope } from '@vaquero/core';
import type { z } from 'zod';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { environmentByName } from '../environments/environment-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import { allProjects, type ProjectRow, projectByName } from '../projects/project-rows.ts';
import { type Caller, maySee } from './caller.ts';
import type { TokenRow } from './token-rows.ts';

type Wanted = z.output<typeof peopleRoutes.makeTokenRoute.body>['scope'];

/** What a token is to be narrowed to, by ids. Refuses (not-found) what its maker may not see, and what no project has. */
export async function readScope(deps: Deps, caller: Caller, wanted: Wanted): Promise<Scope | null> {
  if (wanted === null) return null;
  const projects = await Promise.all(
    wanted.projects.map(async (name): Promise<ProjectRow> => {
      const found = await projectByName(deps.db, name);
      return found === undefined || !maySee(caller, found.id)
        ? refused({ code: 'not-found', what: 'project', name })
        : found;
    }),
  );
  for (const name of wanted.environments ?? [])
    if (!(await isThere(deps, projects, name)))
      refused({ code: 'not-found', what: 'environment', name });
  return {
    projects: projects.map(({ id }) => id),
    role: wanted.role,
    environments: wanted.environments,
  };
}

/** Whether one of the projects has an environment or a family of a name. */
async function isThere(
  deps: Deps,
  projects: readonly ProjectRow[],
  name: string,
): Promise<boolean> {
  for (const project of projects) {
    if (ruleNamed(await mapOf(deps.db, project), name) !== undefined) return true;
    if ((await environmentByName(deps.db, project.id, name)) !== undefined) return true;
  }
  return false;
}

/** What tokens are narrowed to, by names; in the order of the tokens. */
export async function viewScopes(
  deps: Deps,
  tokens: readonly TokenRow[],
): Promise<readonly (NonNullable<Wanted> | null)[]> {
  if (tokens.every(({ scope }) => scope === null)) return tokens.map(() => null);
  const names = new Map((await allProjects(deps.db)).map(({ id, name }) => [id, name]));
  return tokens.map(({ scope }) =>
    scope === null
      ? null
      : {
          projects: scope.projects.map((id) => names.get(id) ?? id),
          role: scope.role,
          environments: scope.environments === null ? null : [...scope.environments],
        },
  );
}
