import type { BuildFailure } from '@vaquero/core';
import { z } from 'zod';
import { evidenceSeen } from '../evidence/evidence-seen.ts';
import { route } from '../http/route.ts';
import { recipeSeen, recipeSource } from '../recipes/recipe-routes.ts';
import {
  at,
  authorIs,
  buildState,
  commitId,
  count,
  digest,
  listedCommit,
  nextPage,
  nothing,
  pageSize,
  usualPage,
} from '../vocabulary.ts';

export const commitSeen = z.object({
  id: commitId,
  subject: z.string(),
  /** As Git has it: whatever the author's machine was told. */
  author: z.string(),
  authorIs,
  at,
});

/** Failures are written by Vaquero itself, so their shape is checked where they are made, by the compiler. */
export const failure = z
  .custom<BuildFailure>((value) => typeof value === 'object' && value !== null && 'reason' in value)
  .meta({
    description: 'Why a build failed: a reason, and fields of its own.',
    override: {
      type: 'object',
      properties: { reason: { type: 'string' } },
      required: ['reason'],
    },
  });

export const buildRow = z
  .object({
    number: z.number(),
    state: buildState,
    ref: z.string(),
    /** The pull request that its commit belongs to: what it would be merged into, and whether its code is an outsider's. */
    pullRequest: z.object({ name: z.string(), into: z.string(), outsider: z.boolean() }).nullable(),
    commit: commitSeen,
    cause: z.string(),
    queuedAt: at,
    startedAt: at.nullable(),
    endedAt: at.nullable(),
    artifact: z.object({ digest, files: z.number(), bytes: z.number() }).nullable(),
    failure: z.object({ what: z.string(), why: z.string(), next: z.string() }).nullable(),
    earlier: z.enum(['used', 'left', 'compared']),
    /** Steps that did not plainly pass in a build that did: tried again, or failed as a warning. */
    marks: z.array(z.enum(['flaky', 'warned'])),
    /** The build whose artifact it took over, since its inputs were the same. */
    reusedFrom: z.number().nullable(),
    /** The build of a newer commit that took its place. */
    overtakenBy: z.number().nullable(),
    /** The name of its recipe; a project may have several. */
    recipeName: z.string(),
    /** The rules of the map that wanted it as its commit was noticed. */
    rules: z.array(z.string()),
  })
  .meta({ id: 'Build' });

export const stepStates = [
  'waiting',
  'running',
  'passed',
  'reused',
  'flaky',
  'warned',
  'failed',
  'skipped',
  /** It ran when the build was ended. */
  'stopped',
] as const;

export const stepState = z.enum(stepStates);

export const stepSeen = z
  .object({
    name: z.string(),
    state: stepState,
    startedAt: at.nullable(),
    endedAt: at.nullable(),
    /** What it ran, or what it did when it is one of Vaquero's own steps. */
    says: z.string(),
    /** Where its part of the log begins, in bytes. */
    logFrom: z.number().nullable(),
    after: z.array(z.string()),
    tries: z.number(),
    /** The earlier build whose result was used, and the time that saved. */
    reused: z.object({ build: z.number(), at, tookMs: z.number() }).nullable(),
    /** Whether the build could not have ended sooner than this step let it. */
    critical: z.boolean(),
    /** When a step that has not ended will begin and end, by its usual time in earlier builds. */
    expected: z.object({ startsAt: at, endsAt: at }).nullable(),
  })
  .meta({ id: 'Step' });

export const buildReply = buildRow
  .extend({
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
        commits: z.array(listedCommit),
        /** Packages that the lock files install in other versions than then; null: not at all. */
        packages: z.array(
          z.object({ name: z.string(), before: z.string().nullable(), now: z.string().nullable() }),
        ),
      })
      .nullable(),
    explanation: z
      .object({
        /** The kind of cause, by the rule that the telling line met, and what helps against it. */
        cause: z.string().nullable(),
        next: z.string().nullable(),
        /** Lines that the last good build did not say. */
        newLines: z.array(z.object({ number: z.number(), text: z.string() })),
        /** Builds of other refs in which the same step failed. */
        elsewhere: z.array(z.object({ build: z.number(), ref: z.string(), at })),
        tools: z.array(z.object({ name: z.string(), before: z.string(), now: z.string() })),
      })
      .nullable(),
    /** Where it waits: how many begin before it, when it will begin by the usual times, and labels that no runner bears. */
    place: z
      .object({ ahead: z.number(), startsAt: at.nullable(), lacks: z.array(z.string()) })
      .nullable(),
    usualMs: z.number().nullable(),
    /** How long builds of this ref took of late: the middle one, and the span of four in five. */
    usual: z
      .object({ medianMs: z.number(), shortMs: z.number(), longMs: z.number(), of: z.number() })
      .nullable(),
    evidence: evidenceSeen,
    /** Programs that steps used, with the versions they say. */
    tools: z.record(z.string(), z.string()).nullable(),
    live: z.array(z.string()),
    addresses: z.array(z.string()),
    destination: z.string(),
    /** The newest builds of the same commit by other recipes, and by this one for other rules of the map: then `wantedBy` names them. */
    siblings: z.array(
      z.object({
        number: z.number(),
        recipe: z.string(),
        wantedBy: z.array(z.string()),
        state: buildState,
      }),
    ),
  })
  .meta({ id: 'BuildInFull' });

export const listBuildsRoute = route({
  method: 'GET',
  path: '/api/projects/:project/builds',
  summary: 'Lists the builds of a project, newest first',
  access: { in: 'project', ability: 'read' },
  query: z.object({ before: count.optional(), limit: pageSize }).default({ limit: usualPage }),
  body: nothing,
  reply: z.object({ builds: z.array(buildRow), more: z.boolean() }),
  rest: ({ builds, more }) => nextPage(builds, more, ({ number }) => number),
});
/** The builds that whoever asks began, by a push or a call, as far as they ended lately; twenty at most. */
export const endedBuildsRoute = route({
  method: 'GET',
  path: '/api/me/ended-builds',
  summary: 'Lists the builds that one began and that ended since',
  access: { in: 'self' },
  query: z.object({ since: at }),
  body: nothing,
  reply: z.object({
    now: at,
    builds: z.array(
      z.object({
        project: z.string(),
        number: z.number(),
        state: buildState,
        ref: z.string(),
        subject: z.string(),
        endedAt: at,
      }),
    ),
  }),
});

/** Builds by what a person knows of them: number, commit, digest, brand, words of the subject, author. Newest first, twenty at most. */
export const findBuildsRoute = route({
  method: 'GET',
  path: '/api/projects/:project/find',
  summary: 'Finds builds by what a person knows of them',
  access: { in: 'project', ability: 'read' },
  query: z.object({ text: z.string().max(200) }),
  body: nothing,
  reply: z.object({
    builds: z.array(
      buildRow.extend({
        /** Environments that serve its artifact now. */
        servedBy: z.array(z.string()),
      }),
    ),
  }),
});
export const showBuildRoute = route({
  method: 'GET',
  path: '/api/projects/:project/builds/:build',
  summary: 'Shows a build: its steps, why it failed, what it made and where that is live',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: buildReply,
});
/** Ends a build that waits or runs. Ending one that has ended is refused. */
export const cancelBuildRoute = route({
  method: 'POST',
  path: '/api/projects/:project/builds/:build/cancel',
  summary: 'Ends a build that waits or runs',
  refuses: ['build-ended'],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: nothing,
  reply: buildRow,
});
/**
 * Builds the newest commit of the trunk, or the commit of an earlier build, again. What is known of
 * earlier steps is used, so that a failed build goes on at its failed step; or left, or compared.
 */
export const buildAgainRoute = route({
  method: 'POST',
  path: '/api/projects/:project/builds',
  summary: 'Builds the newest commit, or that of an earlier build again',
  refuses: ['no-commit-yet', 'commit-unreadable'],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: z.strictObject({
    build: z.number().int().positive().optional(),
    earlier: z.enum(['used', 'left', 'compared']).default('used'),
    /** What it publishes may be much smaller than what is live: somebody has looked, and means it. */
    meant: z.boolean().default(false),
  }),
  reply: buildRow,
  made: ({ number }, { project }) => `/api/projects/${project}/builds/${number}`,
});
/** Which step said which lines, and when; with `find`, only lines that hold the text, whatever its case. */
export const logLinesRoute = route({
  method: 'GET',
  path: '/api/projects/:project/builds/:build/lines',
  summary: 'Says which step said which lines, and when',
  access: { in: 'project', ability: 'read' },
  query: z
    .object({
      step: z.string().max(60).optional(),
      find: z.string().max(200).optional(),
      /** Those from this number on; or the last ones before one. */
      from: count.optional(),
      before: count.optional(),
      limit: count.max(5000).default(1000),
    })
    .default({ limit: 1000 }),
  body: nothing,
  reply: z.object({
    lines: z.array(
      z.object({ number: z.number(), step: z.string(), at: at.nullable(), text: z.string() }),
    ),
    /** Whether there are such lines behind these, and before them. */
    more: z.boolean(),
    earlier: z.boolean(),
    /** How many such lines there are, and how many in all. */
    found: z.number(),
    total: z.number(),
  }),
});
/** The log: plain text, or server-sent events with `Accept: text/event-stream`; event ids are byte offsets. */
export const buildLogRoute = route({
  method: 'GET',
  path: '/api/projects/:project/builds/:build/log',
  summary: 'Gives a build’s log as text, or as a stream while it grows',
  gives: 'text/plain',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: z.string(),
});
