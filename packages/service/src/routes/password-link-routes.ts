import { passwordLinkRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { fromOf, refuseForged } from '../callers/authenticate.ts';
import { inTransaction } from '../database/transaction.ts';
import { serve } from '../http/serve-route.ts';
import { grantsOf } from '../people/grant-rows.ts';
import { markBrowser } from '../people/known-browser.ts';
import { makePasswordLink, passwordLinkOf, usePasswordLink } from '../people/password-links.ts';
import { takesFactor } from '../people/second-factor.ts';
import { openSession } from '../people/sign-in.ts';
import { meOf, setCookie } from './people-routes.ts';
import { neverAgain, serveAct } from './serve-act.ts';

/** Serves links by which people who lost their password set another one: made by operators, shown, used. */
export function servePasswordLinks(app: Express, deps: Deps): void {
  serveAct(
    app,
    deps,
    passwordLinkRoutes.makePasswordLinkRoute,
    ({ params, caller }, note) =>
      inTransaction(deps.db, async (tx) => {
        const made = await makePasswordLink(deps, tx, { name: params.person, caller });
        return [await note(tx, made.name), made] as const;
      }),
    neverAgain,
  );
  serve(app, deps, passwordLinkRoutes.showPasswordLinkRoute, async ({ body }) => {
    const { person, expiresAt } = await passwordLinkOf(deps, body.key);
    return { name: person.name, shownAs: person.shownAs, expiresAt };
  });
  serve(app, deps, passwordLinkRoutes.usePasswordLinkRoute, async ({ body, req, res }) => {
    // One forged by another page would put the visitor into an account of somebody else's.
    refuseForged(deps, req);
    const person = await usePasswordLink(deps, body, fromOf(req));
    // Neither a link nor an invitation takes the place of a second factor: then they sign in like everybody.
    if (!(await takesFactor(deps, person))) {
      const session = await openSession(deps, person, fromOf(req));
      setCookie(res, session.secret, Math.floor((session.expiresAt - deps.clock()) / 1000));
      markBrowser(deps, res, person);
    }
    return meOf(deps, { ...person, grants: await grantsOf(deps.db, person.id), by: 'session' });
  });
}
