import { type Ability, type Actor, type Grant, leastRoleFor, may, type Role } from '@vaquero/core';
import type { Doing } from '../audit/record.ts';
import { refused } from '../refused.ts';

/** A person who calls, with what they were granted and how they came in. */
export interface Caller {
  readonly personId: string;
  readonly name: string;
  readonly shownAs: string;
  /** Grants by project id; null stands for the whole installation. */
  readonly grants: readonly Grant[];
  readonly by: 'session' | 'token';
  /** What they came in by, and until when it holds. */
  readonly credential: Credential;
  readonly doing: Doing;
}

/** A session, by the hash of its secret, or a token. */
export type Credential =
  | { readonly kind: 'session'; readonly hash: string }
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

/** Whether the caller may see a project at all; those who may not are told that there is none. */
export function maySee(caller: Caller, projectId: string): boolean {
  return may(caller.grants, 'read', projectId);
}
