import type { BuildFailure } from '@vaquero/core';
import { z } from 'zod';
import { route } from '../http/route.ts';
import { recipeSeen, recipeSource } from '../recipes/recipe-routes.ts';
import { at, buildState, commitId, count, digest, nothing } from '../vocabulary.ts';

export const commitSeen = z.object({ id: commitId, subject: z.string(), author: z.string(), at });

/** Failures are written by Vaquero itself, so their shape is checked where they are made, by the compiler. */
export const failure = z.custom<BuildFailure>(
  (value) => typeof value === 'object' && value !== null && 'reason' in value,
);

export const buildRow = z.object({
  number: z.number(),
  state: buildState,
  ref: z.string(),
  commit: commitSeen,
  cause: z.string(),
  queuedAt: at,
  startedAt: at.nullable(),
  endedAt: at.nullable(),
  artifact: z.object({ digest, files: z.number(), bytes: z.number() }).nullable(),
  failure: z.object({ what: z.string(), why: z.string(), next: z.string() }).nullable(),
});

export const stepSeen = z.object({
  name: z.string(),
  state: z.enum(['waiting', 'running', 'passed', 'failed', 'skipped']),
  startedAt: at.nullable(),
  endedAt: at.nullable(),
  /** What it ran, or what it did when it is one of Vaquero's own steps. */
  says: z.string(),
  /** Where its part of the log begins, in bytes. */
  logFrom: z.number().nullable(),
});

export const buildReply = buildRow.extend({
  recipe: z.object({ recipe: recipeSeen, source: recipeSource }).nullable(),
  steps: z.array(stepSeen),
  attempts: z.number(),
  reason: failure.nullable(),
  tellingLine: z.object({ number: z.number(), text: z.string() }).nullable(),
  lastGood: z
    .object({
      number: z.number(),
      commit: commitId,
      changed: z.array(
        z.object({
          path: z.string(),
          added: z.number().nullable(),
          removed: z.number().nullable(),
        }),
      ),
    })
    .nullable(),
  place: z.object({ ahead: z.number() }).nullable(),
  usualMs: z.number().nullable(),
  live: z.array(z.string()),
  addresses: z.array(z.string()),
  destination: z.string(),
});

export const listBuildsRoute = route({
  method: 'GET',
  path: '/api/projects/:project/builds',
  access: { in: 'project', ability: 'read' },
  query: z
    .object({ before: count.optional(), limit: count.max(200).default(30) })
    .default({ limit: 30 }),
  body: nothing,
  reply: z.object({ builds: z.array(buildRow), more: z.boolean() }),
});
export const showBuildRoute = route({
  method: 'GET',
  path: '/api/projects/:project/builds/:build',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: buildReply,
});
/** Builds the newest commit of the trunk, or the commit of an earlier build, again. */
export const buildAgainRoute = route({
  method: 'POST',
  path: '/api/projects/:project/builds',
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: z.strictObject({ build: z.number().int().positive().optional() }),
  reply: buildRow,
});
/** The log: plain text, or server-sent events with `Accept: text/event-stream`; event ids are byte offsets. */
export const buildLogRoute = route({
  method: 'GET',
  path: '/api/projects/:project/builds/:build/log',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: z.string(),
});
