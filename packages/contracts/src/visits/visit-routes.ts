import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, nothing } from '../vocabulary.ts';

export const figures = z.object({
  requests: z.number(),
  bytes: z.number(),
  found: z.number(),
  redirected: z.number(),
  missed: z.number(),
  failed: z.number(),
  slow: z.number(),
});

/** What visitors asked of one deploy, for as long as it was live. */
export const deployVisits = figures.extend({
  deploy: z.number(),
  build: z.number(),
  from: at,
  /** When the next took its place; null while it is live. */
  until: at.nullable(),
  liveForMs: z.number(),
});
export type DeployVisits = z.output<typeof deployVisits>;

export const visitsReply = z.object({
  environment: z.string(),
  now: at,
  live: deployVisits.nullable(),
  /** The deploy that was live before, whatever came of it. */
  before: deployVisits.nullable(),
  /** By minute for the last hour, the oldest first. */
  minutes: z.array(z.object({ from: at, requests: z.number(), bad: z.number() })),
  /** Paths that the live deploy did not find, the most asked for first; those that the one before answered stand first. */
  misses: z.array(
    z.object({ path: z.string(), times: z.number(), lastAt: at, answeredBefore: z.boolean() }),
  ),
});
export type VisitsReply = z.output<typeof visitsReply>;

export const showVisitsRoute = route({
  method: 'GET',
  path: '/api/projects/:project/environments/:environment/visits',
  summary: 'Shows what visitors got from an environment',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: visitsReply,
});
