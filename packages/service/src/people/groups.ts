import { decideName } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import type { Tx } from '../database/pool.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import type { Caller } from './caller.ts';
import { dropGrants, lockGrants } from './grant-rows.ts';
import { deleteGroupMember, emptyGroup, insertGroupMember } from './group-rows.ts';
import { endMember, insertPerson, type PersonRow, personByName } from './people-rows.ts';

/** A change of a group, by its name, and who calls for it. */
export interface GroupCall {
  readonly name: string;
  readonly caller: Caller;
}

/** Makes a group with nobody in it. Refuses: name-invalid, name-taken. */
export async function makeGroup(
  deps: Deps,
  { name, shownAs, caller }: GroupCall & { readonly shownAs: string },
): Promise<void> {
  orRefuse(decideName(name));
  const at = deps.clock();
  const id = deps.newId();
  const group = { id, name, shownAs, passwordHash: null, kind: 'group', homeId: null } as const;
  try {
    await inTransaction(deps.db, async (tx) => {
      await insertPerson(tx, { ...group, endedAt: null, madeAt: at });
      decide(tx, {
        at,
        kind: 'group.made',
        project: null,
        doing: caller.doing,
        facts: { group: id },
        after: { name, shownAs },
      });
    });
  } catch (error) {
    if (isDuplicate(error)) return refused({ code: 'name-taken', name, free: [] });
    throw error;
  }
}

/** Ends a group, and with it what it was granted. Its name stays taken: a map may name it. Refuses: not-found, no-group. */
export async function endGroup(deps: Deps, { name, caller }: GroupCall): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    await lockGrants(tx);
    const group = await requireGroup(tx, name);
    const at = deps.clock();
    await dropGrants(tx, group.id);
    await emptyGroup(tx, group.id);
    await endMember(tx, group.id, at);
    decide(tx, {
      at,
      kind: 'group.ended',
      project: null,
      doing: caller.doing,
      facts: { group: group.id },
      before: { name },
    });
  });
}

/** Puts somebody into a group, or takes them out; done already is done. Refuses: not-found, no-group. */
export async function setGroupMember(
  deps: Deps,
  { name, person, isIn, caller }: GroupCall & { readonly person: string; readonly isIn: boolean },
): Promise<void> {
  await inTransaction(deps.db, async (tx) => {
    await lockGrants(tx);
    const group = await requireGroup(tx, name);
    const member = await personByName(tx, person);
    if (member === undefined || member.endedAt !== null)
      return refused({ code: 'not-found', what: 'person', name: person });
    if (member.kind !== 'person')
      return refused({ code: 'no-group', name: person, kind: member.kind });
    const at = deps.clock();
    const ids = { groupId: group.id, personId: member.id };
    const isDone = isIn
      ? await insertGroupMember(tx, { ...ids, since: at })
      : await deleteGroupMember(tx, ids.groupId, ids.personId);
    if (!isDone) return;
    decide(tx, {
      at,
      kind: isIn ? 'group.joined' : 'group.left',
      project: null,
      doing: caller.doing,
      facts: { group: group.id, person: member.id },
    });
  });
}

async function requireGroup(tx: Tx, name: string): Promise<PersonRow> {
  const group = await personByName(tx, name);
  if (group === undefined || group.endedAt !== null)
    return refused({ code: 'not-found', what: 'group', name });
  return group.kind === 'group' ? group : refused({ code: 'no-group', name, kind: group.kind });
}
