import type { Role } from '@vaquero/core';
import { byVaquero, record } from '../audit/record.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { projectByName } from '../projects/project-rows.ts';
import { hashPassword } from './passwords.ts';
import { anybody, insertGrant, insertPerson } from './people-rows.ts';

/** A person to make, with one grant; `projectId` null grants in the whole installation. */
export interface NewPerson {
  readonly name: string;
  readonly shownAs: string;
  readonly password: string | null;
  /** A role to grant at once; null for none yet. */
  readonly role: Role | null;
  readonly projectId: string | null;
}

/** Makes a person with a password and a grant, on record. Returns the person's id. */
export async function addPerson(
  deps: Pick<Deps, 'db' | 'clock' | 'newId'>,
  person: NewPerson,
): Promise<string> {
  const id = deps.newId();
  const at = deps.clock();
  const passwordHash = person.password === null ? null : await hashPassword(person.password);
  await inTransaction(deps.db, async (tx) => {
    await insertPerson(tx, {
      id,
      name: person.name,
      shownAs: person.shownAs,
      passwordHash,
      madeAt: at,
    });
    if (person.role !== null)
      await insertGrant(tx, {
        id: deps.newId(),
        personId: id,
        projectId: person.projectId,
        role: person.role,
      });
    await record(tx, {
      at,
      kind: 'person.added',
      projectId: person.projectId,
      project: null,
      doing: byVaquero,
      facts: { person: id, role: person.role },
    });
  });
  return id;
}

/** Grants a person a role in a project, on record. Throws when there is no such project. */
export async function grantInProject(
  deps: Pick<Deps, 'db' | 'clock' | 'newId'>,
  grant: { readonly personId: string; readonly project: string; readonly role: Role },
): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    const project = await projectByName(tx, grant.project);
    if (project === undefined) throw new Error(`there is no project ${grant.project}`);
    await insertGrant(tx, {
      id: deps.newId(),
      personId: grant.personId,
      projectId: project.id,
      role: grant.role,
    });
    await record(tx, {
      at: deps.clock(),
      kind: 'person.granted',
      projectId: project.id,
      project: project.name,
      doing: byVaquero,
      facts: { person: grant.personId, role: grant.role },
    });
  });
}

/** Makes the first operator of an installation that has nobody yet; does nothing once there is somebody. */
export async function addFirstOperator(
  deps: Pick<Deps, 'db' | 'clock' | 'newId'>,
  first: { readonly name: string; readonly password: string } | null,
): Promise<void> {
  if (first === null || (await anybody(deps.db))) return;
  const { name, password } = first;
  await addPerson(deps, { name, shownAs: name, password, role: 'operator', projectId: null });
}
