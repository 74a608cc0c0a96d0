import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, nothing } from '../vocabulary.ts';

/** RFC 5321 section 4.5.3.1: 64 octets before the sign, 254 in all. */
const mailAddress = z.email().max(254);

const addresses = z.object({
  /** Whether this installation sends mail. */
  sends: z.boolean(),
  addresses: z.array(
    z.object({
      address: z.string(),
      addedAt: at,
      /** When its mail was shown to reach this person; null while that waits. */
      provenAt: at.nullable(),
    }),
  ),
});
export type MailAddresses = z.output<typeof addresses>;

/** Mail addresses of whoever calls: those that are proven join commits with them, and what they sign in as elsewhere. */
export const listMailRoute = route({
  method: 'GET',
  path: '/api/me/mail-addresses',
  summary: 'Lists the mail addresses of whoever calls',
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: addresses,
});
/** Nothing comes of an address before its link was followed by the same person. */
export const addMailRoute = route({
  method: 'POST',
  path: '/api/me/mail-addresses',
  summary: 'Adds a mail address, and sends a link to it that shows whose it is',
  refuses: ['mail-none', 'mail-failed', 'mail-too-many', 'token-too-narrow'],
  access: { in: 'self' },
  query: nothing,
  body: z.strictObject({ address: mailAddress }),
  reply: addresses,
});
export const proveMailRoute = route({
  method: 'POST',
  path: '/api/me/mail-addresses/proven',
  summary: 'Shows that mail to an address reaches whoever calls, by the key of the link in it',
  refuses: ['mail-link-over', 'mail-address-taken', 'token-too-narrow'],
  access: { in: 'self' },
  query: nothing,
  body: z.strictObject({ key: z.string().min(1).max(200) }),
  reply: addresses,
});
export const dropMailRoute = route({
  method: 'POST',
  path: '/api/me/mail-addresses/dropped',
  summary: 'Takes a mail address away',
  refuses: ['token-too-narrow'],
  access: { in: 'self' },
  query: nothing,
  body: z.strictObject({ address: z.string().max(254) }),
  reply: addresses,
});
