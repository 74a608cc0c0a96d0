import { elsewhereRoutes } from '@vaquero/contracts';
import type { Express, Request, Response } from 'express';
import { cookieOf } from '../base/cookie-of.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { authenticate, fromOf, refuseForged } from '../callers/authenticate.ts';
import { serve } from '../http/serve-route.ts';
import { requireWhole } from '../people/caller.ts';
import {
  awayMs,
  beginElsewhere,
  broughtBack,
  joinElsewhere,
  leaveElsewhere,
  signInElsewhere,
} from '../people/elsewhere.ts';
import { grantsOf } from '../people/grant-rows.ts';
import { openSession } from '../people/sign-in.ts';
import { meOf, setCookie } from './people-routes.ts';

/** What a browser takes along: only the console's own pages send it back. */
const alongCookie = '__Host-vaquero-elsewhere';

/** Serves signing in by an issuer of OpenID Connect, and joining what one is there. */
export function serveElsewhere(app: Express, deps: Deps): void {
  const begin = async (res: Response, joins: string | null) => {
    const { address, sealed } = await beginElsewhere(deps, joins);
    setAlong(res, sealed, awayMs / 1000);
    return { address };
  };
  serve(app, deps, elsewhereRoutes.showElsewhereRoute, () =>
    Promise.resolve({ called: deps.issuer?.called ?? null }),
  );
  serve(app, deps, elsewhereRoutes.beginElsewhereRoute, ({ req, res }) => {
    refuseForged(deps, req);
    return begin(res, null);
  });
  serve(app, deps, elsewhereRoutes.joinElsewhereRoute, ({ caller, res }) => {
    requireWhole(caller, 'join another sign-in');
    return begin(res, caller.personId);
  });
  serve(app, deps, elsewhereRoutes.leaveElsewhereRoute, async ({ caller }) => {
    requireWhole(caller, 'leave another sign-in');
    await leaveElsewhere(deps, caller);
    return null;
  });
  serve(app, deps, elsewhereRoutes.endElsewhereRoute, async ({ body, req, res }) => {
    // An answer that another page brings would put the visitor into somebody else's account.
    refuseForged(deps, req);
    const along = broughtBack(deps, cookieOf(req, alongCookie));
    // Good once, whatever comes of it.
    setAlong(res, '', 0);
    if (along !== undefined && along.joins !== null)
      return joined(deps, req, body.search, { ...along, joins: along.joins });
    const person = await signInElsewhere(deps, body.search, along, fromOf(req));
    const session = await openSession(deps, person, fromOf(req));
    setCookie(res, session.secret, Math.floor((session.expiresAt - deps.clock()) / 1000));
    return meOf(deps, { ...person, grants: await grantsOf(deps.db, person.id), by: 'session' });
  });
}

async function joined(
  deps: Deps,
  req: Request,
  search: string,
  along: NonNullable<ReturnType<typeof broughtBack>> & { readonly joins: string },
) {
  const caller = await authenticate(deps, req);
  // Whoever signed in meanwhile in this browser is not joined with what another one began.
  if (caller.personId !== along.joins) return refused({ code: 'not-signed-in', tried: 'session' });
  await joinElsewhere(deps, search, along, caller);
  return meOf(deps, { ...caller, id: caller.personId });
}

function setAlong(res: Response, sealed: string, maxAgeS: number): void {
  res.appendHeader(
    'set-cookie',
    `${alongCookie}=${sealed}; Path=/; Secure; HttpOnly; SameSite=Strict; Max-Age=${maxAgeS}`,
  );
}
