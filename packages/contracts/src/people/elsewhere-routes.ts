import { z } from 'zod';
import { route } from '../http/route.ts';
import { nothing } from '../vocabulary.ts';
import { me } from './people-routes.ts';

const begun = z.object({
  /** Where the browser goes next. */
  address: z.string(),
});

/** Signing in by an issuer of OpenID Connect. */
export const showElsewhereRoute = route({
  method: 'GET',
  path: '/api/sign-in/elsewhere',
  summary: 'Says where people may sign in instead',
  access: { in: 'open' },
  query: nothing,
  body: nothing,
  /** What it is called; null where there is nowhere else. */
  reply: z.object({ called: z.string().nullable() }),
});
export const beginElsewhereRoute = route({
  method: 'POST',
  path: '/api/sign-in/elsewhere/begun',
  summary: 'Begins to sign in elsewhere: the browser goes there, and comes back with an answer',
  refuses: ['elsewhere-none', 'elsewhere-failed', 'forged-request'],
  access: { in: 'open' },
  query: nothing,
  body: nothing,
  reply: begun,
});
export const endElsewhereRoute = route({
  method: 'POST',
  path: '/api/sign-in/elsewhere/answered',
  summary:
    'Opens a session by the answer from elsewhere, or joins it to whoever is signed in and began that',
  refuses: [
    'elsewhere-none',
    'elsewhere-failed',
    'elsewhere-unknown',
    'elsewhere-taken',
    'forged-request',
    'not-signed-in',
  ],
  access: { in: 'open' },
  query: nothing,
  /** The query with which the browser came back. */
  body: z.strictObject({ search: z.string().max(8_000) }),
  reply: me,
});
export const joinElsewhereRoute = route({
  method: 'POST',
  path: '/api/me/elsewhere',
  summary: 'Begins to join what one signs in as elsewhere',
  refuses: ['elsewhere-none', 'elsewhere-failed', 'token-too-narrow'],
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: begun,
});
export const leaveElsewhereRoute = route({
  method: 'DELETE',
  path: '/api/me/elsewhere',
  summary: 'Signs in elsewhere no more',
  refuses: ['elsewhere-none', 'token-too-narrow'],
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: z.null(),
});
