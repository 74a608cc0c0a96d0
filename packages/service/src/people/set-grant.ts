import { decideGrant, type Role } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import { inTransaction } from '../database/transaction.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { type Caller, requireWhole } from './caller.ts';
import { grantsOf, lockGrants, setGrant } from './grant-rows.ts';
import { personByName } from './people-rows.ts';

/** A role that a person is to have from now on in a project, or in the installation; null for none. */
export interface GrantCall {
  readonly project: ProjectRow | null;
  readonly name: string;
  readonly role: Role | null;
  readonly caller: Caller;
}

/**
 * Grants a person a role in place of the one that they had there, or takes it. Whatever they hold ends with it at their next call.
 * Refuses: not-found, above-own-role, granted-everywhere, granted-by-group, last-operator, only-people-operate.
 */
export async function setRole(
  deps: Deps,
  { project, name, role, caller }: GrantCall,
): Promise<void> {
  // A role stays longer than the token that gave it.
  requireWhole(caller, 'give or take roles');
  await inTransaction(deps.db, async (tx) => {
    // One after the other: of two who take each other's role at once, one is refused.
    const operators = await lockGrants(tx);
    const person = await personByName(tx, name);
    if (person === undefined || person.endedAt !== null)
      return refused({ code: 'not-found', what: 'person', name });
    const has = await grantsOf(tx, person.id);
    const granter = await grantsOf(tx, caller.personId);
    const otherOperators = operators.filter((id) => id !== person.id).length;
    const { before } = orRefuse(
      decideGrant({ project, granter, person: name, kind: person.kind, has, role, otherOperators }),
    );
    if (before === role) return;
    await setGrant(tx, {
      id: deps.newId(),
      personId: person.id,
      projectId: project?.id ?? null,
      role,
    });
    decide(tx, {
      at: deps.clock(),
      project,
      doing: caller.doing,
      ...(role === null
        ? {
            kind: 'person.grant-ended' as const,
            facts: { person: person.id, role: before ?? 'reader' },
          }
        : { kind: 'person.granted' as const, facts: { person: person.id, role } }),
      before: { role: before },
      after: { role },
    });
  });
}
