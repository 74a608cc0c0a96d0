import { type Grant, hasRole, type ProjectRole, projectRoles } from './may.ts';

/** What a token is narrowed to: never more than its person may, and never anything of the whole installation. */
export interface Scope {
  /** Projects, by id. */
  readonly projects: readonly string[];
  /** At most what this role may. */
  readonly role: ProjectRole;
  /** Names of environments or of families; null for every one. One that names some reads, and acts on those alone. */
  readonly environments: readonly string[] | null;
}

/** An environment as a scope names it: by itself, or by the rule that all of its family share. */
export interface ScopedPlace {
  readonly name: string;
  readonly rule: string;
}

/** What is left of a person's grants behind a token that is narrowed. */
export function narrowed(grants: readonly Grant[], scope: Scope): readonly Grant[] {
  const { projects, role, environments } = scope;
  const most = environments === null ? role : 'reader';
  return projects.flatMap((project) => grantIn(grants, project, most));
}

/**
 * The grants by which a narrowed token acts on an environment; none where the scope does not reach it, or only reads.
 * Being named in the map is no more than one's role here: a token that may only read acts nowhere.
 */
export function actingGrants(
  grants: readonly Grant[],
  { projects, role, environments }: Scope,
  project: string,
  { name, rule }: ScopedPlace,
): readonly Grant[] {
  const isReached =
    projects.includes(project) &&
    role !== 'reader' &&
    (environments === null || environments.includes(name) || environments.includes(rule));
  return isReached ? grantIn(grants, project, role) : [];
}

/** A person's role in a project, held down to another one. */
function grantIn(grants: readonly Grant[], project: string, most: ProjectRole): readonly Grant[] {
  const own = projectRoles.findLast((role) => hasRole(grants, role, project));
  if (own === undefined) return [];
  const place = Math.min(projectRoles.indexOf(own), projectRoles.indexOf(most));
  return projectRoles.slice(place, place + 1).map((role) => ({ project, role }));
}
