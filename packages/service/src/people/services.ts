import { decideInvitation, decideName, type ProjectRole, type Role } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import type { Db, Tx } from '../database/pool.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { type Caller, requireWhole } from './caller.ts';
import { dropGrants, grantsOf, insertGrant, lockGrants } from './grant-rows.ts';
import { endMember, insertPerson, type PersonRow, personByName } from './people-rows.ts';
import { revokeToken, tokensOf } from './token-rows.ts';

/** A change of a service of a project, by its name, and who calls for it. */
export interface ServiceCall {
  readonly project: ProjectRow;
  readonly name: string;
  readonly caller: Caller;
}

/**
 * Makes a member of a project that is a program: it has a role there and tokens, neither password nor sessions.
 * Refuses: token-too-narrow, name-invalid, name-taken, above-own-role.
 */
export async function makeService(
  deps: Deps,
  {
    project,
    name,
    caller,
    shownAs,
    role,
  }: ServiceCall & { readonly shownAs: string; readonly role: ProjectRole },
): Promise<void> {
  requireWhole(caller, 'make a service');
  orRefuse(decideName(name));
  const at = deps.clock();
  const id = deps.newId();
  const homeId = project.id;
  try {
    await inTransaction(deps.db, async (tx) => {
      await lockGrants(tx);
      orRefuse(decideInvitation(await grantsOf(tx, caller.personId), project.id, role));
      const kind = 'service' as const;
      const row = { id, name, shownAs, passwordHash: null, kind, homeId, endedAt: null };
      await insertPerson(tx, { ...row, madeAt: at });
      await insertGrant(tx, { id: deps.newId(), personId: id, projectId: project.id, role });
      decide(tx, {
        at,
        kind: 'service.made',
        project,
        doing: caller.doing,
        facts: { service: id, role },
        after: { name, shownAs },
      });
    });
  } catch (error) {
    if (isDuplicate(error)) return refused({ code: 'name-taken', name, free: [] });
    throw error;
  }
}

/** Ends a service with its role and all of its tokens. Refuses: token-too-narrow, not-found, above-own-role. */
export async function endService(
  deps: Deps,
  { project, name, caller }: ServiceCall,
): Promise<void> {
  requireWhole(caller, 'end a service');
  await inTransaction(deps.db, async (tx) => {
    await lockGrants(tx);
    const service = await requireService(tx, project, name);
    await requireAsHigh(tx, caller, project, service);
    await endServiceWith(deps, tx, { project, service, caller });
  });
}

/** Ends a service with its role and tokens, in the transaction of what has it end. */
export async function endServiceWith(
  deps: Deps,
  tx: Tx,
  {
    project,
    service,
    caller,
  }: { readonly project: ProjectRow; readonly service: PersonRow; readonly caller: Caller },
): Promise<void> {
  const at = deps.clock();
  const tokens = await tokensOf(tx, service.id, at);
  for (const { id } of tokens) await endToken(deps, tx, { project, service, id, caller });
  await dropGrants(tx, service.id);
  await endMember(tx, service.id, at);
  decide(tx, {
    at,
    kind: 'service.ended',
    project,
    doing: caller.doing,
    facts: { service: service.id, tokens: tokens.length },
    before: { name: service.name },
  });
}

/** Takes a token of a service back. Refuses: token-too-narrow, not-found. */
export async function endServiceToken(
  deps: Deps,
  { project, name, caller, token: id }: ServiceCall & { readonly token: string },
): Promise<void> {
  requireWhole(caller, 'take one back');
  await inTransaction(deps.db, async (tx) => {
    const service = await requireService(tx, project, name);
    await endToken(deps, tx, { project, service, id, caller });
  });
}

/** The service of a project by its name. Refuses: not-found. */
export async function requireService(
  db: Db | Tx,
  project: ProjectRow,
  name: string,
): Promise<PersonRow> {
  const row = await personByName(db, name);
  return row === undefined ||
    row.kind !== 'service' ||
    row.homeId !== project.id ||
    row.endedAt !== null
    ? refused({ code: 'not-found', what: 'service', name })
    : row;
}

/** The role of a service in its project; null where it was taken. */
export async function roleOfService(
  db: Db | Tx,
  project: ProjectRow,
  service: PersonRow,
): Promise<ProjectRole | null> {
  const own = (await grantsOf(db, service.id)).find((grant) => grant.project === project.id);
  return own === undefined ? null : projectRoleOf(own.role);
}

function projectRoleOf(role: Role): ProjectRole | null {
  // Only people operate.
  return role === 'operator' ? null : role;
}

/** Refuses (above-own-role) to whoever may less than the service itself: they would act through it, or take its place. */
export async function requireAsHigh(
  db: Db | Tx,
  caller: Caller,
  project: ProjectRow,
  service: PersonRow,
): Promise<void> {
  const role = await roleOfService(db, project, service);
  if (role === null) return;
  orRefuse(decideInvitation(await grantsOf(db, caller.personId), project.id, role));
}

async function endToken(
  deps: Deps,
  tx: Tx,
  {
    project,
    service,
    id,
    caller,
  }: {
    readonly project: ProjectRow;
    readonly service: PersonRow;
    readonly id: string;
    readonly caller: Caller;
  },
): Promise<void> {
  const at = deps.clock();
  const all = await revokeToken(tx, id, service.id, at);
  if (all.length === 0) return refused({ code: 'not-found', what: 'token', name: id });
  decide(tx, {
    at,
    kind: 'token.revoked',
    project,
    doing: caller.doing,
    facts: { token: id, madeWithIt: all.slice(1) },
  });
}
