import { type Me, peopleRoutes } from '@vaquero/contracts';
import type { Grant, HeldGrant } from '@vaquero/core';
import type { Express, Response } from 'express';
import { byPerson, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { fromOf, refuseForged, sessionCookie, sessionSecretOf } from '../callers/authenticate.ts';
import { inTransaction } from '../database/transaction.ts';
import { serve } from '../http/serve-route.ts';
import { requireWhole } from '../people/caller.ts';
import { grantsOf } from '../people/grant-rows.ts';
import { groupsOf } from '../people/group-rows.ts';
import { identitySince } from '../people/identity-rows.ts';
import { markBrowser, markOf } from '../people/known-browser.ts';
import { requireFactor } from '../people/second-factor.ts';
import { factorSince, wordsLeft } from '../people/second-factor-rows.ts';
import {
  checkSignIn,
  endSession,
  makeToken,
  makeTokenWith,
  openSession,
} from '../people/sign-in.ts';
import { revokeToken, tokensOf } from '../people/token-rows.ts';
import { readScope, viewScopes } from '../people/token-scope.ts';
import { plainToken, viewToken } from '../people/view-token.ts';
import { allProjects } from '../projects/project-rows.ts';
import { neverAgain, serveAct } from './serve-act.ts';

/** Serves signing in and out, and tokens. */
export function servePeople(app: Express, deps: Deps): void {
  serve(app, deps, peopleRoutes.signInRoute, async ({ body, req, res }) => {
    // A sign-in forged by another page would put the visitor into somebody else's account.
    refuseForged(deps, req);
    const person = await checkSignIn(deps, body, { ...fromOf(req), mark: markOf(req) });
    await requireFactor(deps, person);
    const session = await openSession(deps, person, fromOf(req));
    setCookie(res, session.secret, Math.floor((session.expiresAt - deps.clock()) / 1000));
    markBrowser(deps, res, person);
    return meOf(deps, { ...person, grants: await grantsOf(deps.db, person.id), by: 'session' });
  });
  serve(app, deps, peopleRoutes.signOutRoute, async ({ caller, req, res }) => {
    const secret = sessionSecretOf(req);
    if (secret !== undefined) await endSession(deps, secret, caller.doing);
    setCookie(res, '', 0);
    return null;
  });
  serve(app, deps, peopleRoutes.meRoute, ({ caller }) =>
    meOf(deps, { ...caller, id: caller.personId }),
  );
  serve(app, deps, peopleRoutes.signInForTokenRoute, async ({ body, req }) => {
    const person = await checkSignIn(deps, body, fromOf(req));
    await requireFactor(deps, person);
    const token = await makeToken(
      deps,
      person,
      { name: body.token, kind: body.kind, days: body.days },
      byPerson(person.id, 'api', fromOf(req)),
    );
    return { ...(await viewToken(deps, token)), secret: token.secret };
  });
  serveAct(
    app,
    deps,
    peopleRoutes.makeTokenRoute,
    async ({ body, caller }, note) => {
      requireWhole(caller, 'make another one');
      const scope = await readScope(deps, caller, body.scope);
      const made = caller.credential.kind === 'token' ? caller.credential : null;
      const [done, token] = await makeTokenWith(
        deps,
        { person: { id: caller.personId }, wanted: { ...body, scope }, doing: caller.doing, made },
        (tx, { id }) => note(tx, id),
      );
      return [done, { ...(await viewToken(deps, token)), secret: token.secret }] as const;
    },
    neverAgain,
  );
  serve(app, deps, peopleRoutes.listTokensRoute, async ({ caller }) => {
    const all = await tokensOf(deps.db, caller.personId, deps.clock());
    const scopes = await viewScopes(deps, all);
    return { tokens: all.map((token, place) => plainToken(token, scopes[place] ?? null)) };
  });
  serve(app, deps, peopleRoutes.revokeTokenRoute, async ({ caller, params }) => {
    requireWhole(caller, 'take one back');
    const id = params.token;
    const at = deps.clock();
    await inTransaction(deps.db, async (tx) => {
      const all = await revokeToken(tx, id, caller.personId, at);
      if (all.length === 0) return refused({ code: 'not-found', what: 'token', name: id });
      decide(tx, {
        at,
        kind: 'token.revoked',
        project: null,
        doing: caller.doing,
        facts: { token: id, madeWithIt: all.slice(1) },
      });
    });
    return null;
  });
}

/** Who somebody is, as they are told themselves. */
export async function meOf(
  deps: Deps,
  person: {
    id: string;
    name: string;
    shownAs: string;
    grants: readonly (Grant & Partial<HeldGrant>)[];
    by: 'session' | 'token';
  },
): Promise<Me> {
  const issuer = deps.issuer?.issuer;
  const [projects, groups, since, left, elsewhere] = await Promise.all([
    allProjects(deps.db),
    groupsOf(deps.db, person.id),
    factorSince(deps.db, person.id),
    wordsLeft(deps.db, person.id),
    issuer === undefined ? undefined : identitySince(deps.db, person.id, issuer),
  ]);
  const names = new Map(projects.map((project) => [project.id, project.name]));
  return {
    id: person.id,
    name: person.name,
    shownAs: person.shownAs,
    through: person.by,
    elsewhereSince: elsewhere ?? null,
    factor: since === undefined ? null : { since, wordsLeft: left },
    groups: [...groups],
    grants: person.grants.map((grant) => ({
      project: grant.project === null ? null : (names.get(grant.project) ?? grant.project),
      role: grant.role,
      group: grant.group ?? null,
    })),
  };
}

/** Hands a browser its session, or takes it. */
export function setCookie(res: Response, secret: string, maxAgeS: number): void {
  res.appendHeader(
    'set-cookie',
    `${sessionCookie}=${secret}; Path=/; Secure; HttpOnly; SameSite=Strict; Max-Age=${maxAgeS}`,
  );
}
