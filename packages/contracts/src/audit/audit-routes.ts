import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, count, digest, nothing } from '../vocabulary.ts';

/** One decision as the log keeps it: its exact bytes and their leaf hash. */
export const entrySeen = z.object({
  position: z.number(),
  at,
  kind: z.string(),
  bytes: z.string(),
  leaf: digest,
});

export const auditRoute = route({
  method: 'GET',
  path: '/api/projects/:project/entries',
  access: { in: 'project', ability: 'read' },
  query: z
    .object({ before: count.optional(), limit: count.max(500).default(100) })
    .default({ limit: 100 }),
  body: nothing,
  reply: z.object({ entries: z.array(entrySeen), more: z.boolean() }),
});

export const healthRoute = route({
  method: 'GET',
  path: '/health',
  access: { in: 'open' },
  query: nothing,
  body: nothing,
  reply: z.object({
    role: z.string(),
    ok: z.boolean(),
    database: z.boolean(),
    version: z.string(),
  }),
});

/** What changed in a project, as a server-sent event stream; a client asks again for what it shows. */
export const eventsRoute = route({
  method: 'GET',
  path: '/api/projects/:project/events',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: z.unknown(),
});
export const projectEvent = z.object({
  what: z.enum(['build', 'environment', 'repository', 'recipe']),
  build: z.number().optional(),
});
export type ProjectEvent = z.output<typeof projectEvent>;
