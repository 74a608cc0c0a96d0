import { randomBytes } from 'node:crypto';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { sha256 } from '../base/sha256.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import type { Done, NoteDone } from '../idempotency/kept-call-rows.ts';
import type { Caller } from '../people/caller.ts';
import { insertMachine } from './machine-rows.ts';

type Role = 'runner' | 'edge';

/** Makes a runner or an edge known, and returns the token that it is to call with; only its hash is kept. Refuses: name-taken. */
export async function addMachine(
  deps: Deps,
  role: Role,
  name: string,
  caller: Caller,
  note: NoteDone,
): Promise<readonly [Done<string>, { readonly name: string; readonly token: string }]> {
  const token = `vaq${role === 'runner' ? 'r' : 'e'}_${randomBytes(32).toString('base64url')}`;
  try {
    const done = await inTransaction(deps.db, async (tx) => {
      await insertMachine(tx, { id: deps.newId(), role, name, tokenHash: sha256(token) });
      const added = { at: deps.clock(), project: null, doing: caller.doing };
      if (role === 'edge') decide(tx, { ...added, kind: 'edge.added', facts: { edge: name } });
      else decide(tx, { ...added, kind: 'runner.added', facts: { runner: name } });
      return note(tx, name);
    });
    return [done, { name, token }];
  } catch (error) {
    if (isDuplicate(error)) return refused({ code: 'name-taken', name, free: [] });
    throw error;
  }
}
