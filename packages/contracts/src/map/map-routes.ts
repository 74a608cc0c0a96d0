import { deeds, ways } from '@vaquero/core';
import { z } from 'zod';
import { route } from '../http/route.ts';
import { at, commitId, count, nothing, reason, role } from '../vocabulary.ts';

const fault = z.object({
  path: z.string(),
  message: z.string(),
  line: z.number().nullable(),
  column: z.number().nullable(),
});

/** A ref and what people call it. */
const refSeen = z.object({ ref: z.string(), name: z.string(), commit: commitId });

const ruleSeen = z.object({
  name: z.string(),
  kind: z.enum(['follows', 'accepts', 'each']),
  /** The rule in words. */
  says: z.string(),
  /** Its place among the lanes, 0 for the top. */
  place: z.number(),
  acceptsFrom: z.string().nullable(),
  overtaken: z.enum(['finish', 'stop']),
  /** Names that its builds are given; null for every one. */
  gives: z.array(z.string()).nullable(),
  /** Of a family: how many live at most, and how long. */
  family: z
    .object({ atMost: z.number(), closedMs: z.number(), untouchedMs: z.number() })
    .nullable(),
  /** What it matches now: the first fifty. */
  matches: z.array(refSeen),
  matchCount: z.number(),
  /** Environments that live by it. */
  environments: z.array(z.string()),
});

export const mapReply = z
  .object({
    version: z.number(),
    /** Names what was read: a call that sets the map anew says which it saw. */
    tag: z.string(),
    /** The document as it was written. */
    text: z.string(),
    by: z.string().nullable(),
    at: at,
    reason: z.string().nullable(),
    trunk: z.string(),
    rules: z.array(ruleSeen),
    /** The refs that there are, with what each would be merged into: the first five hundred. */
    refs: z.array(refSeen.extend({ into: z.string().nullable() })),
    refCount: z.number(),
    /** What may be meant otherwise than it is written. */
    warnings: z.array(fault),
  })
  .meta({ id: 'Map' });

/** What two maps say otherwise of a rule. */
const ruleChange = z.object({
  rule: z.string(),
  how: z.enum(['new', 'gone', 'renamed', 'changed']),
  before: z.string().nullable(),
  after: z.string().nullable(),
});

export const mapDifference = z
  .object({
    rules: z.array(ruleChange),
    /** Refs that would be sent elsewhere: the first two hundred. */
    refs: z.array(
      z.object({ name: z.string(), before: z.array(z.string()), after: z.array(z.string()) }),
    ),
    refCount: z.number(),
    starts: z.array(z.object({ rule: z.string(), name: z.string() })),
    /** Environments that would end at once: the call that sets the map names them. */
    ends: z.array(z.string()),
    /** Environments whose ref is no longer among those of their family: they end after their time. */
    leaves: z.array(z.string()),
    /** What people may do to a rule's environments that they might not before, and the other way round. */
    rights: z.array(
      z.object({
        name: z.string(),
        shownAs: z.string(),
        rule: z.string(),
        gains: z.array(z.enum(deeds)),
        loses: z.array(z.enum(deeds)),
      }),
    ),
    /** Values that go with the rule that they were set for. */
    values: z.array(z.object({ rule: z.string(), names: z.array(z.string()) })),
  })
  .meta({ id: 'MapDifference' });

const text = z.string().max(64 * 1024);

export const showMapRoute = route({
  method: 'GET',
  path: '/api/projects/:project/map',
  summary: 'The map: which refs go to which environments, and what it matches now',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: mapReply,
  tag: ({ tag }) => tag,
});
export const setMapRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/map',
  summary: 'Sets the map anew; environments that end by it are named',
  refuses: ['map-invalid', 'environments-would-end', 'name-taken', 'changed-since'],
  access: { in: 'project', ability: 'maintain' },
  edits: true,
  query: nothing,
  body: z.strictObject({
    text,
    reason,
    /** Names of the environments that this ends. */
    ends: z.array(z.string().max(40)).max(500).default([]),
  }),
  reply: mapReply,
  tag: ({ tag }) => tag,
});
export const tryMapRoute = route({
  method: 'POST',
  path: '/api/projects/:project/map/trials',
  summary: 'What would change if a map were set: nothing is written',
  refuses: ['map-invalid'],
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: z.strictObject({ text }),
  reply: z.object({ difference: mapDifference, warnings: z.array(fault) }),
});
export const mapVersionsRoute = route({
  method: 'GET',
  path: '/api/projects/:project/map/versions',
  summary: 'Every version of the map: who set it, when, and why',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: z.object({
    versions: z.array(
      z.object({
        version: z.number(),
        by: z.string().nullable(),
        at: at,
        reason: z.string().nullable(),
        text: z.string(),
        /** What it says otherwise than the version before it. */
        changes: z.array(ruleChange),
      }),
    ),
  }),
});
export const whyRoute = route({
  method: 'GET',
  path: '/api/projects/:project/map/answers',
  summary:
    'Where a ref goes and which rules say so; what a commit became; what a person or an environment may',
  access: { in: 'project', ability: 'read' },
  /** A branch, tag or pull request, an environment, a person by name, or the beginning of a commit. */
  query: z.strictObject({ ref: z.string().min(1).max(255) }),
  body: nothing,
  reply: z.object({
    /** What was meant by it. */
    about: z.enum(['ref', 'environment', 'person', 'commit']),
    /** The ref, where it is about one. */
    ref: z.string().nullable(),
    name: z.string(),
    /** Null when the repository has no such ref: the rules answer all the same. */
    commit: commitId.nullable(),
    into: z.string().nullable(),
    why: z.string(),
    answers: z.array(z.object({ rule: z.string(), isMatch: z.boolean(), why: z.string() })),
    environments: z.array(
      z.object({ name: z.string(), address: z.string(), serves: count.nullable() }),
    ),
    /** What stands in the way, or waits. */
    waits: z.array(z.string()),
  }),
});
export const reachRoute = route({
  method: 'GET',
  path: '/api/projects/:project/map/reach',
  summary:
    'Who and what can reach which environment, and where the map allows more than it seems to say',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: z.object({
    version: z.number(),
    /** In lane order. */
    rules: z.array(z.object({ name: z.string(), says: z.string(), kind: ruleSeen.shape.kind })),
    people: z.array(
      z.object({
        name: z.string(),
        shownAs: z.string(),
        role,
        /** What they may do to each rule's environments, in lane order. */
        deeds: z.array(z.array(z.enum(deeds))),
      }),
    ),
    /** Refs that come everywhere in the same ways, together: their first fifty names, and how they come to each rule's environments, in lane order. */
    refs: z.array(
      z.object({
        kind: z.enum(['branch', 'tag', 'pull-request', 'outsiders']),
        names: z.array(z.string()),
        count: z.number(),
        ways: z.array(z.enum(ways)),
      }),
    ),
    warnings: z.array(z.object({ rule: z.string(), message: z.string() })),
  }),
});
export const endEnvironmentRoute = route({
  method: 'DELETE',
  path: '/api/projects/:project/environments/:environment',
  summary: 'Ends one environment of a family; a new commit brings it back',
  refuses: ['not-a-family', 'map-says-who'],
  access: { in: 'environment', act: 'end' },
  query: nothing,
  body: nothing,
  reply: z.null(),
});

export type MapVersionsReply = z.output<typeof mapVersionsRoute.reply>;
export type MapReply = z.output<typeof mapReply>;
export type WhyReply = z.output<typeof whyRoute.reply>;
export type ReachReply = z.output<typeof reachRoute.reply>;
export type MapDifferenceSeen = z.output<typeof mapDifference>;
