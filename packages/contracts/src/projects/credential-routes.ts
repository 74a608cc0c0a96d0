import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, done, nothing } from '../vocabulary.ts';

/** What a private repository is read with: a name, and a token that stands for a password. */
export const credential = z.strictObject({
  user: z
    .string()
    .max(200)
    .regex(/^[\x21-\x39\x3b-\x7e]*$/, 'must be letters, digits and signs without a colon')
    .default('git'),
  secret: z
    .string()
    .min(1)
    .max(4096)
    .regex(/^[\x21-\x7e]+$/, 'must be letters, digits and signs of one line'),
});

/** What is shown of one: never its secret. */
export const credentialSeen = z.object({ user: z.string(), by: z.string(), setAt: at });

export const setCredentialRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/repository/credential',
  summary: 'Sets what a private repository is read with, once it was tried',
  refuses: [
    'repository-not-found',
    'repository-denied',
    'repository-unreachable',
    'address-not-allowed',
    'token-needs-https',
    'no-credential-needed',
  ],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: credential,
  reply: credentialSeen,
});
export const dropCredentialRoute = route({
  method: 'DELETE',
  path: '/api/projects/:project/repository/credential',
  summary: 'Takes back what a private repository is read with',
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: nothing,
  reply: done,
});
