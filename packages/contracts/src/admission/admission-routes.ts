import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, nothing } from '../vocabulary.ts';

const host = z.string().min(1).max(300);

/** What lets one visitor, or one program, see one host for an hour. */
export const passRoute = route({
  method: 'POST',
  path: '/api/passes',
  summary: 'Vouches to the edges that whoever calls may see a site which is not for everybody',
  refuses: ['not-admitted'],
  access: { in: 'self' },
  query: nothing,
  body: z.strictObject({
    /** The site, as it stands in its address; a port makes no difference. */
    host,
    /** The SHA-256 of the cookie that the visitor has there; left out by programs, which show the pass itself. */
    visitor: z
      .string()
      .regex(/^[0-9a-f]{64}$/)
      .nullable()
      .default(null),
    /** Where the visitor goes on: a path of the same site. */
    to: z.string().max(4_000).default('/'),
  }),
  reply: z.object({
    /** Shown in the header field `Vaquero-Pass`, or kept as a cookie by the edge. */
    pass: z.string(),
    until: at,
    /** Where a visitor goes to be let in; null for a program. */
    address: z.string().nullable(),
  }),
});

/** Lends the site of an environment by a link; one that is lent already is closed by it. */
export const lendRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/environments/:environment/link',
  summary:
    'Lends a link that opens an environment to whoever has it; made anew, it closes the one before',
  refuses: ['not-lent'],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: nothing,
  reply: z.object({ environment: z.string(), address: z.string() }),
});
export const closeLinkRoute = route({
  method: 'DELETE',
  path: '/api/projects/:project/environments/:environment/link',
  summary: 'Closes the link that is lent for an environment',
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: nothing,
  reply: z.null(),
});
