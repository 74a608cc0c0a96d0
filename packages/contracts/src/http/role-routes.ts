import type { StepEnd } from '@vaquero/core';
import { z } from 'zod';
import { stepState } from '../builds/build-routes.ts';
import { runnerFailure } from '../builds/runner-failure.ts';
import { recipeSeen } from '../recipes/recipe-routes.ts';
import { label } from '../recipes/recipe-schema.ts';
import { atMs, digest, done, instance, nothing } from '../vocabulary.ts';
import { route } from './route.ts';

/** What must be done to the tree of one commit to get another's. */
const sourceChanges = z.object({
  written: z.array(
    z.object({
      path: z.string(),
      kind: z.enum(['file', 'executable', 'link']),
      /** In base64; of a link, where it leads. */
      bytes: z.string(),
    }),
  ),
  removed: z.array(z.string()),
});
export type SourceChanges = z.output<typeof sourceChanges>;

/** What a runner is given to build: the attempt with its own credential, the source's address, the recipe. */
export const attemptGiven = z.object({
  attempt: z.string(),
  credential: z.string(),
  fence: z.number(),
  leaseMs: z.number(),
  /** What the project is called now; `builtAs` is what uids, caches and trees are kept by, whatever it is called. */
  project: z.string(),
  builtAs: z.string().nullable().default(null),
  build: z.number(),
  commit: z.string(),
  ref: z.string(),
  /** Names the part of which repository the tree is: two attempts of one name see the same paths of it. */
  sight: digest,
  /** Builds of one circle share caches; code of outsiders shares none with anybody but its own pull request. */
  circle: z.string(),
  /** The steps that this ref wants, in the recipe's own words. */
  recipe: recipeSeen,
  /** Where the recipe is from: what was proposed is a guess, whose folder the build may show to be another. */
  recipeIs: z.enum(['file', 'accepted', 'proposed']).default('file'),
  /** How earlier results are used: as they are known, not at all, or only to be compared with new ones. */
  earlier: z.enum(['used', 'left', 'compared']),
  /** What steps are given by name; only what the map releases to the ref. */
  given: z.array(z.object({ name: z.string(), value: z.string(), secret: z.boolean() })),
  /** How the tree differs from one that the runner keeps; null when the whole is to be fetched. */
  since: z.object({ commit: z.string(), changes: sourceChanges }).nullable(),
});
export type AttemptGiven = z.output<typeof attemptGiven>;

const toolVersions = z.record(z.string().max(40), z.string().max(100));

/** Waits up to `waitMs` for a build; null when there is none. A new `instance` frees what an older one held. */
export const claimRoute = route({
  method: 'POST',
  path: '/role/claims',
  summary: 'Waits for a build and gives it to a runner',
  access: { in: 'role', role: 'runner' },
  query: nothing,
  body: z.strictObject({
    instance,
    waitMs: z.number().int().min(0).max(30_000),
    /** The programs that steps use there, by name, with the versions they say. */
    tools: toolVersions,
    /** How many builds it takes at once, and what it is labelled. */
    slots: z.number().int().min(1).max(1000),
    labels: z.array(label).max(32),
    /** The trees it keeps where it would build, by their sights. */
    keeps: z
      .array(z.strictObject({ sight: digest, commit: z.string().regex(/^[0-9a-f]{40,64}$/) }))
      .max(64)
      .default([]),
  }),
  reply: attemptGiven.nullable(),
});
export const attemptBeatRoute = route({
  method: 'POST',
  path: '/role/attempts/:attempt/beats',
  summary: 'Prolongs the lease of an attempt',
  access: { in: 'attempt' },
  query: nothing,
  body: nothing,
  reply: done,
});
/** The commit's tree as a tar stream. */
export const attemptSourceRoute = route({
  method: 'GET',
  path: '/role/attempts/:attempt/source',
  summary: 'Gives the tree of an attempt’s commit',
  refuses: ['source-incomplete', 'commit-unreadable'],
  gives: 'application/x-tar',
  access: { in: 'attempt' },
  query: nothing,
  body: nothing,
  reply: z.unknown(),
});
/** Which step said the bytes from an offset on, and when. */
export const logSegments = z.array(
  z.strictObject({ offset: z.number().int().nonnegative(), step: z.string().max(60), at: atMs }),
);
export type LogSegments = z.output<typeof logSegments>;

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    // What is no JSON is no list either: the schema says so.
    return undefined;
  }
}

/** Log bytes at an offset; those already kept are taken again without harm. */
export const attemptLogRoute = route({
  method: 'POST',
  path: '/role/attempts/:attempt/log',
  summary: 'Keeps bytes of an attempt’s log',
  takes: 'application/octet-stream',
  access: { in: 'attempt' },
  query: z.object({
    offset: z.coerce.number().int().nonnegative(),
    segments: z
      .string()
      .max(100_000)
      .transform((text, context) => {
        const read = logSegments.safeParse(jsonOf(text));
        if (read.success) return read.data;
        context.addIssue({ code: 'custom', message: 'is not a list of segments' });
        return z.NEVER;
      }),
  }),
  body: nothing,
  reply: done,
});
export const stepReport = z.strictObject({
  name: z.string(),
  place: z.number().int().nonnegative(),
  says: z.string().max(2000),
  after: z.array(z.string().max(60)).max(64),
  state: stepState,
  tries: z.number().int().nonnegative(),
  at: atMs,
  logFrom: z.number().int().nonnegative().nullable(),
  /** The earlier build whose result was used, when it ran, and how long it took then. */
  reused: z.strictObject({ build: z.number(), at: atMs, tookMs: z.number() }).nullable(),
});
export type StepReport = z.output<typeof stepReport>;
export const attemptStepsRoute = route({
  method: 'POST',
  path: '/role/attempts/:attempt/steps',
  summary: 'Says how the steps of an attempt stand',
  access: { in: 'attempt' },
  query: nothing,
  body: z.strictObject({ steps: z.array(stepReport).max(200) }),
  reply: done,
});
export const siteFile = z.strictObject({
  path: z.string(),
  digest,
  sizeBytes: z.number().int().nonnegative(),
  mode: z.union([z.literal(0o644), z.literal(0o755)]),
});
/**
 * Asks which steps need not run: for each whose earlier steps' outputs are known, its key and, if the same
 * was done before, the output that came of it.
 */
export const attemptKnownRoute = route({
  method: 'POST',
  path: '/role/attempts/:attempt/known',
  summary: 'Says which steps need not run, since the same was done before',
  access: { in: 'attempt' },
  query: nothing,
  body: z.strictObject({
    outputs: z.record(z.string().max(60), digest),
    /** Versions of programs that the steps start, where the claim did not name them yet. */
    tools: toolVersions.optional(),
  }),
  reply: z.object({
    steps: z.array(
      z.object({
        name: z.string(),
        key: digest,
        found: z
          .object({ output: digest, build: z.number(), at: atMs, tookMs: z.number() })
          .nullable(),
      }),
    ),
  }),
});
export type KnownSteps = z.output<typeof attemptKnownRoute.reply>['steps'];
/** Notes the output of a step that ran, under its key. `differs` names the output that was known and is not the same. */
export const attemptResultRoute = route({
  method: 'POST',
  path: '/role/attempts/:attempt/results',
  summary: 'Notes what a step wrote, under the key of all that it hung on',
  access: { in: 'attempt' },
  query: nothing,
  body: z.strictObject({
    step: z.string().max(60),
    key: digest,
    output: digest,
    files: z.number().int().nonnegative(),
    bytes: z.number().int().nonnegative(),
    tookMs: z.number().nonnegative(),
  }),
  reply: z.object({ differs: digest.nullable() }),
});
/** Hands over a report that a step wrote: tests (JUnit XML or TAP), findings (SARIF 2.1.0), or files that differ although the inputs are the same. */
export const attemptReportRoute = route({
  method: 'POST',
  path: '/role/attempts/:attempt/reports',
  summary: 'Hands over a report that a step wrote',
  access: { in: 'attempt' },
  query: nothing,
  body: z.strictObject({
    step: z.string().max(60),
    kind: z.enum(['tests', 'findings', 'differences']),
    path: z.string().max(500),
    text: z.string().max(4 << 20),
  }),
  reply: z.object({ problem: z.string().nullable() }),
});
/** Opens an upload session: from here on nothing that it relies on is swept. */
export const openUploadRoute = route({
  method: 'POST',
  path: '/role/attempts/:attempt/uploads',
  summary: 'Opens an upload: nothing that it relies on is swept until it ends',
  access: { in: 'attempt' },
  query: nothing,
  body: nothing,
  reply: z.object({ upload: z.string() }),
});
/** Brings the bytes of one file to a store that the runner does not share. Nothing is said of what the store has. */
export const uploadBlobRoute = route({
  method: 'PUT',
  path: '/role/attempts/:attempt/uploads/:upload/blobs/:digest',
  summary: 'Brings the bytes of a file to a store that the runner does not share',
  takes: 'application/octet-stream',
  access: { in: 'attempt' },
  query: nothing,
  body: nothing,
  reply: done,
});
export const proposeArtifactRoute = route({
  method: 'POST',
  path: '/role/attempts/:attempt/artifact',
  summary: 'Proposes what an attempt built as its artifact, to be inspected and looked at',
  access: { in: 'attempt' },
  query: nothing,
  body: z.strictObject({
    /** The upload that the files came by; null of a runner that shares the store. */
    upload: z.string().nullable(),
    /** When the runner began to store. */
    since: atMs,
    site: z.string(),
    entry: z.string(),
    missing: z.string().nullable(),
    files: z.array(siteFile).max(200_000),
    /** An artifact that has all other files of this one, but for some: only what is new is sent. */
    like: z
      .strictObject({ artifact: digest, without: z.array(z.string()).max(200_000) })
      .nullable(),
  }),
  /** Null when the artifact that this one is like is not kept: all files must be named. */
  reply: z.object({ artifact: digest.nullable() }),
});
/** Whether other runners could use an output of a step that this one has, and the service does not keep it yet. */
export const outputWantedRoute = route({
  method: 'POST',
  path: '/role/outputs/:digest/wanted',
  summary: 'Says whether other runners could use an output of a step',
  access: { in: 'role', role: 'runner' },
  query: nothing,
  body: z.strictObject({ bytes: z.number().int().nonnegative() }),
  reply: z.object({ wanted: z.boolean() }),
});
/** An output as a tar stream, from the runner that made it. */
export const giveOutputRoute = route({
  method: 'PUT',
  path: '/role/outputs/:digest',
  summary: 'Brings an output of a step, for other runners',
  takes: 'application/x-tar',
  access: { in: 'role', role: 'runner' },
  query: nothing,
  body: nothing,
  reply: done,
});
/** The same for a runner that has not made it. */
export const takeOutputRoute = route({
  method: 'GET',
  path: '/role/outputs/:digest',
  summary: 'Gives an output of a step that another runner made',
  gives: 'application/x-tar',
  access: { in: 'role', role: 'runner' },
  query: nothing,
  body: nothing,
  reply: z.unknown(),
});
/** All steps of a recipe that publishes nothing have passed. Refused for one that does. */
export const attemptPassedRoute = route({
  method: 'POST',
  path: '/role/attempts/:attempt/pass',
  summary: 'Ends an attempt of a recipe that publishes nothing',
  access: { in: 'attempt' },
  query: nothing,
  body: nothing,
  reply: done,
});
export const attemptFailedRoute = route({
  method: 'POST',
  path: '/role/attempts/:attempt/failure',
  summary: 'Ends an attempt with its failure',
  access: { in: 'attempt' },
  query: nothing,
  body: z.strictObject({ failure: runnerFailure }),
  reply: done,
});

export * from './edge-role-routes.ts';
export type { StepEnd };
