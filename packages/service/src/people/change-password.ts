import { decidePassword } from '@vaquero/core';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused } from '../base/refused.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Caller } from './caller.ts';
import { commonPasswords } from './common-passwords.ts';
import { hashPassword } from './passwords.ts';
import { setPasswordHash } from './people-rows.ts';
import { deleteOtherSessions } from './session-rows.ts';
import { checkPasswordThen } from './sign-in.ts';

/**
 * Sets another password for whoever knows the one that holds. Every session but the one that asks ends.
 * Refuses: wrong-password, password-weak, too-many-tries.
 */
export async function changePassword(
  deps: Deps,
  caller: Caller,
  { now, next }: { readonly now: string; readonly next: string },
): Promise<void> {
  orRefuse(decidePassword(caller.name, next, await commonPasswords()));
  const wish = { name: caller.name, password: now };
  const person = await checkPasswordThen(deps, wish, caller.doing, async (one) => one);
  const hash = await hashPassword(next);
  if (hash === undefined) return refused({ code: 'too-many-tries', retryAfterS: 2 });
  const { credential } = caller;
  await inTransaction(deps.db, async (tx) => {
    await setPasswordHash(tx, person.id, hash);
    const own = credential.kind === 'session' ? credential.hash : null;
    const sessionsEnded = await deleteOtherSessions(tx, person.id, own);
    decide(tx, {
      at: deps.clock(),
      kind: 'person.password-set',
      project: null,
      doing: caller.doing,
      facts: { sessionsEnded },
    });
  });
}
