import { roles } from '@vaquero/core';
import { z } from 'zod';
import { route } from '../http/route.ts';
import { line, nothing, role } from '../vocabulary.ts';

const password = z.string().min(1).max(1000);
/** Six digits of now, or a recovery word. */
const code = z.string().max(40);

/** Set up with name and password, so that whoever is asked for one at sign-in can. It holds once a code of it was shown. */
export const beginFactorRoute = route({
  method: 'POST',
  path: '/api/second-factors/begun',
  summary:
    'Begins a second factor by name and password; one that holds goes on until the new one does',
  refuses: ['wrong-password', 'too-many-tries', 'code-needed', 'wrong-code'],
  access: { in: 'open' },
  query: nothing,
  /** `code`: of the one that holds, where one does. */
  body: z.strictObject({ name: line, password, code: code.optional() }),
  reply: z.object({
    /** In base 32, to be typed in (RFC 4648). */
    secret: z.string(),
    /** The same as an address that programs for codes read, mostly as a picture. */
    address: z.string(),
  }),
});
export const confirmFactorRoute = route({
  method: 'POST',
  path: '/api/second-factors/confirmed',
  summary: 'Confirms a second factor by a code of it; the recovery words are shown this once',
  refuses: ['wrong-password', 'too-many-tries', 'wrong-code', 'no-factor'],
  access: { in: 'open' },
  query: nothing,
  body: z.strictObject({ name: line, password, code }),
  reply: z.object({ words: z.array(z.string()) }),
});
export const endFactorRoute = route({
  method: 'POST',
  path: '/api/second-factors/ended',
  summary: 'Ends one’s second factor by a code of it',
  refuses: [
    'wrong-password',
    'too-many-tries',
    'code-needed',
    'wrong-code',
    'no-factor',
    'factor-demanded',
  ],
  access: { in: 'open' },
  query: nothing,
  body: z.strictObject({ name: line, password, code: code.optional() }),
  reply: z.null(),
});
export const endFactorOfRoute = route({
  method: 'DELETE',
  path: '/api/people/:person/second-factor',
  summary: 'Ends the second factor of somebody who lost it',
  refuses: ['no-factor'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: z.null(),
});

const rule = z.object({ factorFrom: role.nullable() });
export const showSignInRuleRoute = route({
  method: 'GET',
  path: '/api/sign-in-rule',
  summary: 'From which role on a second factor is demanded',
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: rule,
});
/** Who must have one and has none is signed out, and sets one up at the next sign-in; tokens stay. */
export const setSignInRuleRoute = route({
  method: 'PUT',
  path: '/api/sign-in-rule',
  summary: 'Demands a second factor from a role on; null demands none',
  refuses: ['factor-first'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: z.strictObject({ factorFrom: z.enum(roles).nullable() }),
  reply: rule.extend({ sessionsEnded: z.number() }),
});
