import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, nothing } from '../vocabulary.ts';
import { me } from './people-routes.ts';

const key = z.string().min(1).max(200);

/** The link is in this reply and nowhere else, ever; it works once, for a day, and the one before it works no more. */
export const makePasswordLinkRoute = route({
  method: 'POST',
  path: '/api/people/:person/password-link',
  summary: 'Makes a link by which a person sets another password, once',
  refuses: ['no-group'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: z.object({ name: z.string(), address: z.string(), expiresAt: at }),
  showsOnce: 'link',
});
export const showPasswordLinkRoute = route({
  method: 'POST',
  path: '/api/password-links/shown',
  summary: 'Says whose password a link sets, by its key',
  refuses: ['password-link-over'],
  access: { in: 'open' },
  query: nothing,
  body: z.strictObject({ key }),
  reply: z.object({ name: z.string(), shownAs: z.string(), expiresAt: at }),
});
/** Every session of theirs ends with it; tokens stay, and are taken back by themselves. */
export const usePasswordLinkRoute = route({
  method: 'POST',
  path: '/api/password-links/used',
  summary:
    'Uses a link: sets the password, and opens a session where no second factor is asked for',
  refuses: ['password-link-over', 'password-weak', 'forged-request', 'too-many-tries'],
  access: { in: 'open' },
  query: nothing,
  body: z.strictObject({ key, password: z.string().min(1).max(1000) }),
  reply: me,
});
