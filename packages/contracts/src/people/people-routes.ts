import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, done, line, nothing, projectRole, role } from '../vocabulary.ts';

export const me = z
  .object({
    id: z.string(),
    name: z.string(),
    shownAs: z.string(),
    /** The groups that one is in. */
    groups: z.array(z.string()),
    grants: z.array(
      z.object({
        project: z.string().nullable(),
        role,
        /** The group that was granted this; null where oneself was. */
        group: z.string().nullable(),
      }),
    ),
    through: z.enum(['session', 'token']),
    /** One's second factor; null where one has none. */
    factor: z.object({ since: at, wordsLeft: z.number() }).nullable(),
    /** Since when one signs in elsewhere, too; null where one does not. */
    elsewhereSince: at.nullable(),
  })
  .meta({ id: 'Me' });

export const tokenKinds = ['all', 'git'] as const;

/** What a token is narrowed to: never more than its maker may. */
const scope = z.object({
  /** Projects by name. */
  projects: z.array(z.string().max(100)).min(1).max(50),
  /** At most what this role may. */
  role: projectRole,
  /** Environments or families by name; null for every one. One that names some reads, and acts on those alone. */
  environments: z.array(z.string().max(40)).min(1).max(50).nullable(),
});

export const tokenSeen = z
  .object({
    id: z.string(),
    name: z.string(),
    kind: z.enum(tokenKinds),
    /** Null for one that opens all that its maker may. */
    scope: scope.nullable(),
    madeAt: at,
    expiresAt: at,
    lastUsedAt: at.nullable(),
  })
  .meta({ id: 'Token' });

export const signInRoute = route({
  method: 'POST',
  path: '/api/sign-in',
  summary: 'Opens a session by name and password',
  refuses: [
    'wrong-password',
    'too-many-tries',
    'code-needed',
    'wrong-code',
    'factor-demanded',
    'forged-request',
  ],
  access: { in: 'open' },
  query: nothing,
  body: z.strictObject({
    name: line,
    password: z.string().min(1).max(1000),
    /** Of one’s second factor, where one has one. */
    code: z.string().max(40).optional(),
  }),
  reply: me,
});
export const signOutRoute = route({
  method: 'POST',
  path: '/api/sign-out',
  summary: 'Ends the session',
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: done,
});
export const meRoute = route({
  method: 'GET',
  path: '/api/me',
  summary: 'Says who calls, and what they were granted',
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: me,
});

export const listSessionsRoute = route({
  method: 'GET',
  path: '/api/sessions',
  summary: 'Lists the browsers in which one is signed in',
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: z.object({
    sessions: z.array(
      z.object({
        id: z.string(),
        madeAt: at,
        expiresAt: at,
        /** The one that asks. */
        isOwn: z.boolean(),
      }),
    ),
  }),
});
export const endSessionRoute = route({
  method: 'DELETE',
  path: '/api/sessions/:session',
  summary: 'Signs another browser out',
  refuses: ['token-too-narrow'],
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: done,
});
/** Every other session ends with it; tokens stay, and are taken back by themselves. */
export const changePasswordRoute = route({
  method: 'PUT',
  path: '/api/me/password',
  summary: 'Sets another password, and ends every other session',
  refuses: ['wrong-password', 'password-weak', 'too-many-tries', 'token-too-narrow'],
  access: { in: 'self' },
  query: nothing,
  body: z.strictObject({
    now: z.string().min(1).max(1000),
    next: z.string().min(1).max(1000),
  }),
  reply: done,
});

/** The secret of a token is in this reply and nowhere else, ever. */
export const makeTokenRoute = route({
  method: 'POST',
  path: '/api/tokens',
  summary: 'Makes a token; its secret is shown this once',
  refuses: ['not-found', 'token-too-narrow'],
  access: { in: 'self' },
  query: nothing,
  body: z.strictObject({
    name: line,
    kind: z.enum(tokenKinds).default('all'),
    days: z.number().int().min(1).max(366).default(90),
    scope: scope.nullable().default(null),
  }),
  reply: tokenSeen.extend({ secret: z.string() }),
  made: ({ id }) => `/api/tokens/${id}`,
  showsOnce: 'token',
});
/** For a client without a session: name and password give a token at once. */
export const signInForTokenRoute = route({
  method: 'POST',
  path: '/api/sign-in/token',
  summary: 'Makes a token by name and password',
  refuses: ['wrong-password', 'too-many-tries', 'code-needed', 'wrong-code', 'factor-demanded'],
  access: { in: 'open' },
  query: nothing,
  body: z.strictObject({
    name: line,
    password: z.string().min(1).max(1000),
    code: z.string().max(40).optional(),
    token: line,
    kind: z.enum(tokenKinds).default('all'),
    days: z.number().int().min(1).max(366).default(90),
  }),
  reply: tokenSeen.extend({ secret: z.string() }),
});
export const listTokensRoute = route({
  method: 'GET',
  path: '/api/tokens',
  summary: 'Lists one’s tokens',
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: z.object({ tokens: z.array(tokenSeen) }),
});
export const revokeTokenRoute = route({
  method: 'DELETE',
  path: '/api/tokens/:token',
  summary: 'Takes a token back, and all that were made with it',
  refuses: ['token-too-narrow'],
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: done,
});
export type TokenSeen = z.output<typeof tokenSeen>;
