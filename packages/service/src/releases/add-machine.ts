import { randomBytes } from 'node:crypto';
import { record, sha256 } from '../audit/record.ts';
import type { Tx } from '../database/pool.ts';
import { machines } from '../database/tables.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import type { Caller } from '../people/caller.ts';
import { refused } from '../refused.ts';

type Role = 'runner' | 'edge';

/** Makes a runner or an edge known, and returns the token that it is to call with; only its hash is kept. Refuses: name-taken. */
export async function addMachine(
  deps: Deps,
  role: Role,
  name: string,
  caller: Caller,
): Promise<{ readonly name: string; readonly token: string }> {
  const token = `vaq${role === 'runner' ? 'r' : 'e'}_${randomBytes(32).toString('base64url')}`;
  try {
    await inTransaction(deps.db, async (tx) => {
      await tx.insert(machines).values({ id: deps.newId(), role, name, tokenHash: sha256(token) });
      await noteMachine(deps, tx, role, 'added', name, caller);
    });
  } catch (error) {
    if (isDuplicate(error)) return refused({ code: 'name-taken', name, free: [] });
    throw error;
  }
  return { name, token };
}

/** Puts on record what a person did with a runner or an edge. */
export function noteMachine(
  deps: Deps,
  tx: Tx,
  role: Role,
  what: 'added' | 'dropped' | 'draining' | 'used',
  name: string,
  caller: Caller,
): Promise<number> {
  return record(tx, {
    at: deps.clock(),
    kind: `${role}.${what}`,
    projectId: null,
    project: null,
    doing: caller.doing,
    facts: { [role]: name },
  });
}
