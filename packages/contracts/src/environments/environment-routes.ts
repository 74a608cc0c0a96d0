import { admissions, roles } from '@vaquero/core';
import { z } from 'zod';
import { route } from '../http/route.ts';
import {
  at,
  commitId,
  count,
  deployKind,
  digest,
  nextPage,
  nothing,
  pageSize,
  reason,
  usualPage,
} from '../vocabulary.ts';

export const deploySeen = z
  .object({
    number: z.number(),
    kind: deployKind,
    artifact: digest,
    build: z.number(),
    commit: commitId,
    subject: z.string(),
    by: z.string(),
    through: z.string(),
    reason: z.string().nullable(),
    undoes: z.object({ first: z.number(), last: z.number() }).nullable(),
    undone: z.boolean(),
    kept: z.boolean(),
    committedAt: at,
    confirmedAt: at.nullable(),
    builtInMs: z.number().nullable(),
    position: z.number(),
  })
  .meta({ id: 'Deploy' });

export const holdSeen = z
  .object({
    by: z.string(),
    since: at,
    reason: z.string(),
    liftedAt: at.nullable(),
    liftedBy: z.string().nullable(),
  })
  .meta({ id: 'Hold' });

export const waitingSeen = z.discriminatedUnion('kind', [
  /** Nothing waits. */
  z.object({
    kind: z.literal('nothing'),
    why: z.string(),
    /** The build that came last, if it failed. */
    failed: z.number().nullable(),
  }),
  /** An artifact that another environment serves could come in. */
  z.object({
    kind: z.literal('artifact'),
    artifact: digest,
    build: z.number(),
    subject: z.string(),
    commitsAhead: z.number().nullable(),
    buildsAhead: z.number(),
    since: at,
  }),
  /** A build has passed and waits for somebody's word. */
  z.object({
    kind: z.literal('offer'),
    build: z.number(),
    artifact: digest,
    subject: z.string(),
    since: at,
    commitsAhead: z.number().nullable(),
    /** A newer build that is on its way. */
    newer: z.number().nullable(),
  }),
  /** A build is on its way and goes live by itself; one that is awaited has passed, and enters once another environment has served it. */
  z.object({
    kind: z.literal('build'),
    build: z.number(),
    subject: z.string(),
    state: z.string(),
    startedAt: at.nullable(),
    usualMs: z.number().nullable(),
  }),
]);

const whoMay = z.union([z.enum([...roles, 'nobody']), z.array(z.string())]);

export const environmentSeen = z
  .object({
    name: z.string(),
    address: z.string(),
    generation: z.number(),
    /** What the map says of it, in words. */
    rule: z.string(),
    /** Its place among the lanes; 0 is the top, whose changes take a releaser. */
    place: z.number(),
    /** Of a family: the rule that it lives by, the ref that it is for, and when it ends if nothing happens. */
    family: z
      .object({
        rule: z.string(),
        ref: z.string(),
        of: z.string(),
        endsAt: at.nullable(),
        /** What it ends of then: its ref has gone, or nobody touched it. */
        endsOf: z.enum(['closed', 'untouched']).nullable(),
        /** Whether its owner is to be told that it ends. */
        endsSoon: z.boolean(),
        /** Until when somebody keeps it. */
        kept: z.object({ until: at, by: z.string(), why: z.string() }).nullable(),
        /** Who opened the pull request, or pushed the branch last; null where that is not known. */
        owner: z.object({ name: z.string(), shownAs: z.string() }).nullable(),
      })
      .nullable(),
    acceptsFrom: z.string().nullable(),
    /** Whether it moves on somebody's word alone. */
    isOnWord: z.boolean(),
    /** Whom its site admits, and whether a link is lent for it. */
    admits: z.enum(admissions),
    isLent: z.boolean(),
    /** Who may do what to it: everybody from a role on, nobody, or people by name. */
    may: z.object({ promote: whoMay, 'roll-back': whoMay, hold: whoMay, end: whoMay }),
    /** What a newer commit does to the build of an older one: lets it finish, or stops it. */
    overtaken: z.enum(['finish', 'stop']),
    serves: deploySeen.nullable(),
    hold: holdSeen.nullable(),
    waits: waitingSeen,
    /** What a rollback without a wish would go back to. */
    wayBack: z
      .object({
        deploy: z.number(),
        build: z.number(),
        artifact: digest,
        subject: z.string(),
        undoes: z.object({ first: z.number(), last: z.number() }),
      })
      .nullable(),
    /** Commits on the trunk that what is live here does not have; null when it cannot be told. */
    commitsBehind: z.number().nullable(),
  })
  .meta({ id: 'Environment' });

export const edgesSeen = z
  .object({
    running: z.number(),
    names: z.array(z.object({ name: z.string(), fresh: z.boolean(), revision: z.number() })),
  })
  .meta({ id: 'EdgesNow' });

export const laneReply = z.object({
  now: at,
  position: z.number(),
  edges: edgesSeen,
  environments: z.array(
    environmentSeen.extend({
      ledger: z.array(deploySeen),
      holds: z.array(holdSeen),
      /** What visitors asked for, by minute for the last hour; minutes without a request are left out. */
      minutes: z.array(z.object({ from: at, requests: z.number(), bad: z.number() })),
    }),
  ),
});

export const lanesRoute = route({
  method: 'GET',
  path: '/api/projects/:project/lanes',
  summary: 'Shows the environments with their ledgers over some days',
  access: { in: 'project', ability: 'read' },
  query: z.object({ days: count.max(400).default(7) }).default({ days: 7 }),
  body: nothing,
  reply: laneReply,
});

export const liveRoute = route({
  method: 'GET',
  path: '/api/live',
  summary: 'Shows what is live in all projects that one may see',
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: z.object({
    now: at,
    edges: edgesSeen,
    projects: z.array(z.object({ project: z.string(), environments: z.array(environmentSeen) })),
  }),
});

export const historyRoute = route({
  method: 'GET',
  path: '/api/projects/:project/environments/:environment/history',
  summary: 'Lists the deploys of an environment, newest first',
  access: { in: 'project', ability: 'read' },
  query: z.object({ before: count.optional(), limit: pageSize }).default({ limit: usualPage }),
  body: nothing,
  reply: z.object({
    environment: z.string(),
    now: at,
    /** When the environment ended; null for one that lives. */
    endedAt: at.nullable(),
    total: z.number(),
    undone: z.number(),
    deploys: z.array(deploySeen.extend({ liveForMs: z.number() })),
    more: z.boolean(),
  }),
  rest: ({ deploys, more }) => nextPage(deploys, more, ({ number }) => number),
});

/** What the person had before their eyes: the environment's generation and what it served. */
export const seen = z.strictObject({
  generation: z.number().int().nonnegative(),
  artifact: digest.nullable(),
});

/** How a move ended: when it was committed, who confirmed it, and who has not been heard from. */
export const moveReply = z
  .object({
    environment: z.string(),
    address: z.string(),
    deploy: deploySeen,
    before: z.object({ deploy: z.number(), build: z.number(), artifact: digest }).nullable(),
    confirmed: z.boolean(),
    unheard: z.array(z.object({ edge: z.string(), mayServe: digest.nullable() })),
    /** How long it took; null for a call that was carried out before, and is answered again. */
    ms: z.object({ prepare: z.number(), commit: z.number(), confirm: z.number() }).nullable(),
    generation: z.number(),
  })
  .meta({ id: 'Move' });

export const showEnvironmentRoute = route({
  method: 'GET',
  path: '/api/projects/:project/environments/:environment',
  summary: 'Shows an environment: what it serves, what holds it, what waits, and the way back',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: environmentSeen,
});
/** One deploy of an environment's history. */
export const showDeployRoute = route({
  method: 'GET',
  path: '/api/projects/:project/environments/:environment/deploys/:deploy',
  summary: 'Shows one deploy of an environment’s history',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: deploySeen,
});

const deployPath = (
  { environment, deploy }: z.output<typeof moveReply>,
  { project }: Readonly<Record<string, string>>,
): string => `/api/projects/${project}/environments/${environment}/deploys/${deploy.number}`;

export const promoteRoute = route({
  method: 'POST',
  path: '/api/projects/:project/environments/:environment/promotions',
  summary: 'Moves the very artifact that another environment serves on to this one',
  refuses: [
    'accepts-from',
    'environment-held',
    'environment-moved',
    'environment-serves-nothing',
    'already-serves',
    'undone-there',
    'artifact-gone',
    'map-says-who',
    'edge-cannot-prepare',
    'immutable-changed',
  ],
  access: { in: 'environment', act: 'promote' },
  query: nothing,
  body: z.strictObject({ from: z.string(), artifact: digest, seen, reason: reason.optional() }),
  reply: moveReply,
  made: deployPath,
});
/** What passed and waits for a word that whoever asks may give; the newest first, twenty at most. */
export const offersRoute = route({
  method: 'GET',
  path: '/api/me/offers',
  summary: 'Lists what passed and waits for one’s word',
  access: { in: 'self' },
  query: nothing,
  body: nothing,
  reply: z.object({
    offers: z.array(
      z.object({
        project: z.string(),
        environment: z.string(),
        build: z.number(),
        subject: z.string(),
        since: at,
      }),
    ),
  }),
});
export const letInRoute = route({
  method: 'POST',
  path: '/api/projects/:project/environments/:environment/entries',
  summary: 'Lets in a build that passed and waits for somebody’s word',
  refuses: [
    'not-offered',
    'environment-held',
    'environment-moved',
    'artifact-gone',
    'map-says-who',
    'edge-cannot-prepare',
    'immutable-changed',
  ],
  access: { in: 'environment', act: 'promote' },
  query: nothing,
  body: z.strictObject({ build: count, seen, reason: reason.optional() }),
  reply: moveReply,
  made: deployPath,
});
export const rollBackRoute = route({
  method: 'POST',
  path: '/api/projects/:project/environments/:environment/rollbacks',
  summary: 'Goes back to what an environment served before, and holds it',
  refuses: [
    'environment-moved',
    'environment-serves-nothing',
    'already-serves',
    'no-way-back',
    'map-says-who',
    'artifact-gone',
    'edge-cannot-prepare',
  ],
  access: { in: 'environment', act: 'roll-back' },
  query: nothing,
  body: z.strictObject({
    to: z
      .union([
        z.strictObject({ deploy: z.number().int().positive() }),
        z.strictObject({ build: z.number().int().positive() }),
      ])
      .optional(),
    reason,
    seen,
  }),
  reply: moveReply,
  made: deployPath,
});
export const liftHoldRoute = route({
  method: 'POST',
  path: '/api/projects/:project/environments/:environment/lifts',
  summary: 'Lifts the hold of an environment',
  refuses: ['environment-not-held', 'environment-moved', 'map-says-who'],
  access: { in: 'environment', act: 'hold' },
  query: nothing,
  body: z.strictObject({ generation: z.number().int().nonnegative() }),
  reply: z.object({ environment: z.string(), generation: z.number(), hold: holdSeen }),
});
