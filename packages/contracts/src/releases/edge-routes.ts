import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, done, nothing } from '../vocabulary.ts';

export const edgeSeen = z
  .object({
    name: z.string(),
    /** The position in the log up to which it has confirmed what it serves. */
    revision: z.number(),
    /** Whether that is all there is to serve. */
    current: z.boolean(),
    heardAt: at.nullable(),
    /** Whether it was heard of lately: moves wait for it. */
    present: z.boolean(),
  })
  .meta({ id: 'Edge' });
export type EdgeSeen = z.output<typeof edgeSeen>;

const name = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, 'an edge’s name takes a–z, 0–9 and hyphens, 40 at most');
const edges = z.object({ edges: z.array(edgeSeen) });

export const listEdgesRoute = route({
  method: 'GET',
  path: '/api/edges',
  summary: 'Lists the edges and how far each has come',
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: edges,
});
/** Makes an edge known; its token is shown this once. */
export const addEdgeRoute = route({
  method: 'POST',
  path: '/api/edges',
  summary: 'Makes an edge known; its token is shown this once',
  refuses: ['name-taken'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: z.strictObject({ name }),
  reply: z.object({ name: z.string(), token: z.string() }),
  made: ({ name }) => `/api/edges/${name}`,
  showsOnce: 'edge',
});
/** Takes its token back; moves name it no more. Refused while it serves. */
export const dropEdgeRoute = route({
  method: 'DELETE',
  path: '/api/edges/:edge',
  summary: 'Takes an edge’s token back',
  refuses: ['edge-serves'],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: nothing,
  reply: done,
});
