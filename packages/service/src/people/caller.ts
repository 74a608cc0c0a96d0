import {
  type Ability,
  type Acting,
  type Actor,
  actingGrants,
  type Digest,
  type Grant,
  leastRoleFor,
  may,
  type Role,
  type Scope,
  type ScopedPlace,
} from '@vaquero/core';
import type { Doing } from '../audit/doing.ts';
import { refused } from '../base/refused.ts';

/** A person who calls, with what they were granted and how they came in. */
export interface Caller {
  readonly personId: string;
  readonly name: string;
  readonly shownAs: string;
  /** The groups that they are in, by name. */
  readonly groups: readonly string[];
  /** Grants by project id; null stands for the whole installation. Behind a narrowed token what is left of them. */
  readonly grants: readonly Grant[];
  /** The token that narrows what the person may, and what it is narrowed from. */
  readonly narrow: Narrow | null;
  readonly by: 'session' | 'token';
  /** What they came in by, and until when it holds. */
  readonly credential: Credential;
  readonly doing: Doing;
}

/** A token that is narrowed, by its name, and the grants of its person. */
export interface Narrow {
  readonly token: string;
  readonly scope: Scope;
  readonly own: readonly Grant[];
}

/** A session, by the hash of its secret, or a token. */
export type Credential =
  | { readonly kind: 'session'; readonly hash: Digest }
  | { readonly kind: 'token'; readonly id: string; readonly expiresAt: number };

/** What a credential is called on record; a session by a part of its hash, which opens nothing. */
export function named(credential: Credential): NonNullable<Actor['by']> {
  return credential.kind === 'session'
    ? sessionById(credential.hash)
    : { kind: 'token', id: credential.id };
}

/** A session on record, by the hash of its secret. */
export function sessionById(hash: string): NonNullable<Actor['by']> {
  return { kind: 'session', id: hash.slice(0, 16) };
}

/** Refuses (not-allowed) unless the caller has the ability in the project (null: in the installation). */
export function requireAbility(
  caller: Caller,
  ability: Ability,
  project: { readonly id: string; readonly name: string } | null,
): void {
  if (!may(caller.grants, ability, project?.id ?? null))
    refuseRole(caller, leastRoleFor[ability], project);
}

/** Refuses (not-allowed) for want of a role. */
export function refuseRole(
  caller: Caller,
  needs: Role,
  project: { readonly id: string; readonly name: string } | null,
): never {
  const here = caller.grants.filter(
    (grant) => grant.project === null || grant.project === project?.id,
  );
  return refused({
    code: 'not-allowed',
    needs,
    project: project?.name ?? null,
    has: here.map((grant) => grant.role),
  });
}

/**
 * Who acts on an environment: the caller, held down to what a narrowed token reaches.
 * Refuses: token-too-narrow.
 */
export function actingOn(
  caller: Caller,
  project: { readonly id: string; readonly name: string },
  place: ScopedPlace,
): Acting {
  if (caller.narrow === null) return caller;
  const { token, scope, own } = caller.narrow;
  const grants = actingGrants(own, scope, project.id, place);
  return grants.length === 0
    ? refused({ code: 'token-too-narrow', token, what: `act on ${place.name} of ${project.name}` })
    : { name: caller.name, groups: caller.groups, grants };
}

/** Refuses (token-too-narrow) what a narrowed token never does: anything about its own person. */
export function requireWhole({ narrow }: Caller, what: string): void {
  if (narrow !== null) refused({ code: 'token-too-narrow', token: narrow.token, what });
}

/** Whether the caller may see a project at all; those who may not are told that there is none. */
export function maySee(caller: Caller, projectId: string): boolean {
  return may(caller.grants, 'read', projectId);
}
