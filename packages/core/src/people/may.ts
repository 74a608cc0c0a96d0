/** What people are in a project, each holding all that the ones before it hold. */
export const projectRoles = ['reader', 'builder', 'releaser', 'maintainer'] as const;
export type ProjectRole = (typeof projectRoles)[number];

/** The five roles; operator is the installation's. */
export const roles = [...projectRoles, 'operator'] as const;
export type Role = (typeof roles)[number];

/** What a person may do; every route names one. */
export const abilities = ['read', 'build', 'maintain', 'operate'] as const;
export type Ability = (typeof abilities)[number];

/** The least role that holds an ability. What is done to an environment its map says (`map/map-rights.ts`). */
export const leastRoleFor: Readonly<Record<Ability, Role>> = {
  read: 'reader',
  build: 'builder',
  maintain: 'maintainer',
  operate: 'operator',
};

/** What a member may be: somebody, several of them under a name, or a program of a project. */
export const memberKinds = ['person', 'group', 'service'] as const;
export type MemberKind = (typeof memberKinds)[number];

/** One role of a member, in one project or, null, in the whole installation. */
export interface Grant {
  readonly project: string | null;
  readonly role: Role;
}

/** A grant of a person's: their own, or that of a group which they are in, by its name. */
export interface HeldGrant extends Grant {
  readonly group: string | null;
}

/** Says whether grants reach an ability in a project (null: in the installation). */
export function may(grants: readonly Grant[], ability: Ability, project: string | null): boolean {
  return hasRole(grants, leastRoleFor[ability], project);
}

/** Says whether grants reach a role, or one above it, in a project (null: in the installation). */
export function hasRole(grants: readonly Grant[], role: Role, project: string | null): boolean {
  const needed = roles.indexOf(role);
  return grants.some(
    (grant) =>
      roles.indexOf(grant.role) >= needed && (grant.project === null || grant.project === project),
  );
}
