import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, count, digest, nextPage, nothing, pageSize, usualPage } from '../vocabulary.ts';

/** One decision as the log keeps it: its exact bytes and their leaf hash. */
export const entrySeen = z
  .object({
    position: z.number(),
    at,
    kind: z.string(),
    bytes: z.string(),
    leaf: digest,
    /** The reason that was given: its SHA-256 behind the salt is what the bytes say. Null for none, or one that was forgotten. */
    why: z.object({ salt: z.string(), text: z.string() }).nullable(),
  })
  .meta({ id: 'Entry' });

export const auditRoute = route({
  method: 'GET',
  path: '/api/projects/:project/entries',
  summary: 'Lists what was decided in a project, newest first, with its exact bytes',
  access: { in: 'project', ability: 'read' },
  query: z.object({ before: count.optional(), limit: pageSize }).default({ limit: usualPage }),
  body: nothing,
  reply: z.object({ entries: z.array(entrySeen), more: z.boolean() }),
  rest: ({ entries, more }) => nextPage(entries, more, ({ position }) => position),
});

export const healthRoute = route({
  method: 'GET',
  path: '/health',
  summary: 'Says whether the service and its database answer',
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

/** The contract itself: an OpenAPI 3.1 document. */
export const openApiRoute = route({
  method: 'GET',
  path: '/api/openapi.json',
  summary: 'Gives this description of all calls',
  access: { in: 'open' },
  query: nothing,
  body: nothing,
  reply: z.object({ openapi: z.string() }).loose(),
});

/**
 * What changes, as a stream of server-sent events; a client asks again for what it shows. What was decided has its
 * position in the log as id, and is told from `Last-Event-ID` on. `event: everything` says that more happened since than
 * is told one by one.
 */
export const eventsRoute = route({
  method: 'GET',
  path: '/api/events',
  summary: 'Tells what changes, in the order in which it was decided',
  gives: 'text/event-stream',
  access: { in: 'self' },
  query: z.object({ project: z.string().optional() }).default({}),
  body: nothing,
  reply: z.unknown(),
});
export const projectEvent = z.object({
  /** Null: all of them. */
  project: z.string().nullable(),
  what: z.enum(['build', 'environment', 'repository', 'recipe', 'settings']),
  build: z.number().optional(),
});
export type ProjectEvent = z.output<typeof projectEvent>;
