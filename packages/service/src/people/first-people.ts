import type { Role } from '@vaquero/core';
import { byVaquero, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { inTransaction } from '../database/transaction.ts';
import { projectByName } from '../projects/project-rows.ts';
import { insertGrant } from './grant-rows.ts';
import { hashPassword } from './passwords.ts';
import { asPerson, insertPerson } from './people-rows.ts';

/** A person to make, with a role in the whole installation if it is to have one. */
export interface NewPerson {
  readonly name: string;
  readonly shownAs: string;
  readonly password: string | null;
  readonly role: Role | null;
}

/** Makes a person with a password and a grant, on record. Returns the person's id. */
export async function addPerson(
  deps: Pick<Deps, 'db' | 'clock' | 'newId'>,
  person: NewPerson,
): Promise<string> {
  const id = deps.newId();
  const at = deps.clock();
  const passwordHash =
    person.password === null ? null : ((await hashPassword(person.password)) ?? tooMany());
  await inTransaction(deps.db, async (tx) => {
    await insertPerson(tx, {
      ...asPerson,
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
        projectId: null,
        role: person.role,
      });
    decide(tx, {
      at,
      kind: 'person.added',
      project: null,
      doing: byVaquero,
      facts: { person: id, role: person.role },
    });
  });
  return id;
}

function tooMany(): never {
  throw new Error('too many passwords are being hashed');
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
    decide(tx, {
      at: deps.clock(),
      kind: 'person.granted',
      project,
      doing: byVaquero,
      facts: { person: grant.personId, role: grant.role },
    });
  });
}
