import { secondFactorRoutes } from '@vaquero/contracts';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { fromOf } from '../callers/authenticate.ts';
import { serve } from '../http/serve-route.ts';
import {
  beginFactor,
  confirmFactor,
  demandFactor,
  endFactorOf,
  endOwnFactor,
} from '../people/second-factor.ts';
import { factorDemandedFrom } from '../people/second-factor-rows.ts';
import { checkPasswordThen } from '../people/sign-in.ts';

/** Serves second factors: one's own by name and password, those of others and what is demanded by operators. */
export function serveSecondFactors(app: Express, deps: Deps): void {
  serve(app, deps, secondFactorRoutes.beginFactorRoute, ({ body, req }) => {
    const typed = { code: body.code, from: fromOf(req) };
    return checkPasswordThen(deps, body, typed.from, (person) => beginFactor(deps, person, typed));
  });
  serve(app, deps, secondFactorRoutes.confirmFactorRoute, async ({ body, req }) => {
    const { name, password, code } = body;
    // The code is one of what was begun; trying it is a try like that of a password.
    const words = await checkPasswordThen(deps, { name, password }, fromOf(req), (person) =>
      confirmFactor(deps, person, code, fromOf(req)),
    );
    return { words: [...words] };
  });
  serve(app, deps, secondFactorRoutes.endFactorRoute, async ({ body, req }) => {
    const typed = { code: body.code, from: fromOf(req) };
    await checkPasswordThen(deps, body, typed.from, (person) => endOwnFactor(deps, person, typed));
    return null;
  });
  serve(app, deps, secondFactorRoutes.endFactorOfRoute, async ({ params, caller }) => {
    await endFactorOf(deps, params.person, caller);
    return null;
  });
  serve(app, deps, secondFactorRoutes.showSignInRuleRoute, async () => ({
    factorFrom: await factorDemandedFrom(deps.db),
  }));
  serve(app, deps, secondFactorRoutes.setSignInRuleRoute, async ({ body, caller }) => ({
    factorFrom: body.factorFrom,
    sessionsEnded: await demandFactor(deps, body.factorFrom, caller),
  }));
}
