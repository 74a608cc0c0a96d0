import { randomBytes } from 'node:crypto';
import { decideInvitation, decideNewcomer, later, type Refusal, type Role } from '@vaquero/core';
import type { Doing } from '../audit/doing.ts';
import { byPerson, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import { sha256 } from '../base/sha256.ts';
import type { Tx } from '../database/pool.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import { isNamedInMaps } from '../map/named-in-maps.ts';
import { type ProjectRow, projectById } from '../projects/project-rows.ts';
import type { Caller } from './caller.ts';
import { commonPasswords } from './common-passwords.ts';
import { grantsOf, insertGrant } from './grant-rows.ts';
import {
  endInvitationRow,
  type InvitationRow,
  type InvitationView,
  insertInvitation,
  invitationByHash,
} from './invitation-rows.ts';
import { hashPassword } from './passwords.ts';
import { anybody, asPerson, insertPerson, type PersonRow, personByName } from './people-rows.ts';

const lastsMs = 7 * 86_400_000;

/** An invitation with the link that is shown this once. */
export interface Invited {
  readonly row: InvitationRow;
  readonly address: string;
}

/** Writes an invitation to a role in a project, or in the installation. Refuses: above-own-role. */
export async function invite(
  deps: Deps,
  tx: Tx,
  {
    project,
    role,
    caller,
  }: { readonly project: ProjectRow | null; readonly role: Role; readonly caller: Caller },
): Promise<Invited> {
  orRefuse(decideInvitation(caller.grants, project?.id ?? null, role));
  const at = deps.clock();
  const key = randomBytes(32).toString('base64url');
  const row: InvitationRow = {
    id: deps.newId(),
    hash: sha256(key),
    projectId: project?.id ?? null,
    role,
    personId: caller.personId,
    madeAt: at,
    expiresAt: later(at, lastsMs),
    overAt: null,
    usedBy: null,
  };
  await insertInvitation(tx, row);
  decide(tx, {
    at,
    kind: 'person.invited',
    project,
    doing: caller.doing,
    facts: { invitation: row.id, role },
  });
  // Behind the sign that no browser sends anywhere: neither logs nor other sites see it.
  return { row, address: `${deps.config.origin}/join#${key}` };
}

/** Takes an invitation back. Refuses: not-found. */
export async function endInvitation(
  deps: Deps,
  {
    project,
    id,
    caller,
  }: { readonly project: ProjectRow | null; readonly id: string; readonly caller: Caller },
): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    const at = deps.clock();
    const projectId = project?.id ?? null;
    if (!(await endInvitationRow(tx, id, { projectId, at, usedBy: null })))
      return refused({ code: 'not-found', what: 'invitation', name: id });
    decide(tx, {
      at,
      kind: 'person.invitation-ended',
      project,
      doing: caller.doing,
      facts: { invitation: id },
    });
  });
}

/** The invitation that a key opens. Refuses: invitation-over. */
export async function invitationOf(deps: Deps, key: string): Promise<InvitationView> {
  return requireOpen(deps, await invitationByHash(deps.db, sha256(key)));
}

function requireOpen(deps: Deps, found: InvitationView | undefined): InvitationView {
  const over = (because: Extract<Refusal, { code: 'invitation-over' }>['because']): never =>
    refused({ code: 'invitation-over', because });
  if (found === undefined) return over('unknown');
  const { overAt, usedBy, expiresAt } = found.row;
  if (overAt !== null) return over(usedBy === null ? 'ended' : 'used');
  return deps.clock() < expiresAt ? found : over('late');
}

/** A person whom an invitation makes. */
export interface Newcomer {
  readonly key: string;
  readonly name: string;
  readonly shownAs: string;
  readonly password: string;
}

/**
 * Uses an invitation: makes the person, with the role that it is to, in one transaction with its end.
 * Refuses: invitation-over, name-invalid, name-taken, password-weak, too-many-tries.
 */
export async function join(
  deps: Deps,
  { key, name, shownAs, password }: Newcomer,
  from: Pick<Doing, 'origin' | 'request'>,
): Promise<PersonRow> {
  // A guessed key costs no hashing.
  await invitationOf(deps, key);
  orRefuse(decideNewcomer(name, password, await commonPasswords()));
  const passwordHash = await hashPassword(password);
  if (passwordHash === undefined) return refused({ code: 'too-many-tries', retryAfterS: 2 });
  const person: PersonRow = { ...asPerson, id: deps.newId(), name, shownAs, passwordHash };
  try {
    await inTransaction(deps.db, async (tx) => {
      const { row } = requireOpen(deps, await invitationByHash(tx, sha256(key), true));
      // Whoever invited gives nothing that they have not themselves by now.
      const counts =
        row.personId === null
          ? !(await anybody(tx))
          : decideInvitation(await grantsOf(tx, row.personId), row.projectId, row.role).ok;
      if (!counts) return refused({ code: 'invitation-over', because: 'ended' });
      // Who chooses their own name does not choose one that a map gives rights to.
      if ((await personByName(tx, name)) !== undefined || (await isNamedInMaps(tx, name)))
        return refused({ code: 'name-taken', name, free: [] });
      const at = deps.clock();
      const project = row.projectId === null ? null : await projectById(tx, row.projectId);
      await insertPerson(tx, { ...person, madeAt: at });
      const { projectId, role } = row;
      await insertGrant(tx, { id: deps.newId(), personId: person.id, projectId, role });
      await endInvitationRow(tx, row.id, { at, usedBy: person.id });
      decide(tx, {
        at,
        kind: 'person.joined',
        project,
        doing: byPerson(person.id, 'console', from),
        facts: { person: person.id, invitation: row.id, role },
      });
    });
  } catch (error) {
    // Two who chose one name at once.
    if (isDuplicate(error)) return refused({ code: 'name-taken', name, free: [] });
    throw error;
  }
  return person;
}
