import { peopleRoutes } from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import type { Express } from 'express';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { inTransaction } from '../database/transaction.ts';
import { serve } from '../http/serve-route.ts';
import { requireWhole, sessionById } from '../people/caller.ts';
import { changePassword } from '../people/change-password.ts';
import { deleteSessionOf, sessionsOf } from '../people/session-rows.ts';

/** Serves what people do with their own sign-in: their sessions and their password. */
export function serveOwn(app: Express, deps: Deps): void {
  serve(app, deps, peopleRoutes.listSessionsRoute, async ({ caller }) => {
    const own = caller.credential.kind === 'session' ? caller.credential.hash : null;
    const all = await sessionsOf(deps.db, caller.personId, deps.clock());
    return {
      sessions: all.map(({ hash, madeAt, expiresAt }) => ({
        id: sessionById(hash).id,
        madeAt: madeAt as Instant,
        expiresAt: expiresAt as Instant,
        isOwn: hash === own,
      })),
    };
  });
  serve(app, deps, peopleRoutes.endSessionRoute, async ({ caller, params }) => {
    requireWhole(caller, 'end a session');
    await inTransaction(deps.db, async (tx) => {
      if (!(await deleteSessionOf(tx, caller.personId, params.session)))
        return refused({ code: 'not-found', what: 'session', name: params.session });
      decide(tx, {
        at: deps.clock(),
        kind: 'person.session-ended',
        project: null,
        doing: caller.doing,
        facts: { session: params.session },
      });
    });
    return null;
  });
  serve(app, deps, peopleRoutes.changePasswordRoute, async ({ caller, body }) => {
    requireWhole(caller, 'change a password');
    await changePassword(deps, caller, body);
    return null;
  });
}
