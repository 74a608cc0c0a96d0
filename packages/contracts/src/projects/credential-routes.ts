import { readSshAddress } from '@vaquero/core';
import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, done, nothing } from '../vocabulary.ts';

/** What a private repository at an https address is read with: a name, and a token that stands for a password. */
export const token = z.strictObject({
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

/** An address over SSH: `ssh://user@host/path`, or `user@host:path`. */
export const sshAddress = z
  .string()
  .max(1000)
  .refine((text) => readSshAddress(text) !== undefined, 'must be as ssh://user@host/path');

/** The SHA-256 of a host's key, as ssh-keygen writes it. Source: RFC 4253 section 6.6, RFC 4648. */
const fingerprint = z
  .string()
  .regex(/^SHA256:[A-Za-z0-9+/]{43}$/, 'must be a fingerprint as SHA256:…');

/** A key that was made here, and the key of the host that somebody has confirmed for it. */
export const confirmedKey = z.strictObject({ key: z.uuid(), hostKey: fingerprint });

/** A key that was made here: its private half is never shown. */
const keyMade = z.object({
  key: z.uuid(),
  place: z.string(),
  /** To be added where the repository lies, as it stands. */
  publicKey: z.string(),
  /** What the host shows who it is with; one of them is confirmed. The strongest stands first. */
  hostKeys: z.array(z.object({ type: z.string(), fingerprint: z.string() })),
});
export type KeyMade = z.output<typeof keyMade>;

/** What is shown of what a repository is read with: never its secret. */
export const credentialSeen = z.object({
  kind: z.enum(['token', 'key']),
  user: z.string(),
  by: z.string(),
  setAt: at,
  /** Of a key: its public half, and the fingerprint of the host's key. */
  publicKey: z.string().nullable(),
  hostKey: z.string().nullable(),
});

const whereLooked = [
  'repository-not-found',
  'repository-denied',
  'repository-unreachable',
  'address-not-allowed',
  'credential-unfit',
] as const;

export const makeKeyRoute = route({
  method: 'POST',
  path: '/api/repository-keys',
  summary: 'Makes a key for a repository over SSH, and asks its host who it is',
  refuses: ['repository-unreachable', 'address-not-allowed'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: z.strictObject({ url: sshAddress }),
  reply: keyMade,
});
export const makeProjectKeyRoute = route({
  method: 'POST',
  path: '/api/projects/:project/repository/keys',
  summary: 'Makes another key for the repository of a project, and asks its host who it is',
  refuses: [
    'repository-unreachable',
    'address-not-allowed',
    'credential-unfit',
    'no-credential-needed',
  ],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: nothing,
  reply: keyMade,
});
export const confirmKeyRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/repository/key',
  summary: 'Sets the key that a repository is read with over SSH, once it was tried',
  refuses: [...whereLooked, 'key-unknown', 'host-key-changed', 'host-key-unconfirmed'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: confirmedKey,
  reply: credentialSeen,
});
export const setCredentialRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/repository/credential',
  summary: 'Sets what a private repository is read with, once it was tried',
  refuses: [...whereLooked, 'token-needs-https', 'no-credential-needed'],
  access: { in: 'project', ability: 'maintain' },
  query: nothing,
  body: token,
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
