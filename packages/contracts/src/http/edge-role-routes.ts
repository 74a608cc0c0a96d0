import { admissions } from '@vaquero/core';
import { z } from 'zod';
import { atMs, digest, done, instance, nothing } from '../vocabulary.ts';
import { route } from './route.ts';

/** One host name's answer: the artifact it serves now and, for an hour, the one it served before. */
export const routingEntry = z.object({
  project: z.string(),
  environment: z.string(),
  /** Shares in per cent; one target of 100 in this version. Empty: nothing is served yet. */
  targets: z.array(z.object({ artifact: digest, share: z.number() })),
  deploy: z.number().nullable(),
  build: z.number().nullable(),
  commit: z.string().nullable(),
  /** What was served before, for edges of earlier versions. */
  previous: z.object({ artifact: digest, until: atMs }).nullable(),
  /** What was served within the last hour and may still be asked for by open pages, the newest first. */
  earlier: z.array(z.object({ artifact: digest, until: atMs })).default([]),
  /** The top of the lanes, which search engines find; an api of the version before does not say. */
  isTop: z.boolean().optional(),
  waitsFor: z.string(),
  /** Whom it admits; an api of the version before admits anyone. */
  admits: z.enum(admissions).default('anyone'),
  /** The SHA-256 of the link that is lent for it. */
  link: z.string().nullable().default(null),
  /** Whether its pages bear the brand and its name. */
  marks: z.boolean().default(false),
});
export type RoutingEntry = z.output<typeof routingEntry>;
export const routingTable = z.object({
  revision: z.number(),
  hosts: z.record(z.string(), routingEntry),
  /** The base name under which artifacts answer, with its port. */
  artifactsBase: z.string(),
  /** Hosts of environments that ended lately: they say so. */
  ended: z
    .record(
      z.string(),
      z.object({
        project: z.string(),
        environment: z.string(),
        at: atMs,
        because: z.string(),
        /** Who ended it, where somebody did, and the artifact that it served then. */
        by: z.string().nullable().default(null),
        artifact: digest.nullable().default(null),
      }),
    )
    .default({}),
  /**
   * What is called otherwise lately: hosts with the addresses that they lead to, and, for artifacts of builds, former
   * names of projects with the present ones.
   */
  moved: z
    .object({
      hosts: z.record(z.string(), z.string()),
      projects: z.record(z.string(), z.string()),
    })
    .default({ hosts: {}, projects: {} }),
  /** Where visitors who are not admitted are sent, and the public key (PEM) of what they come back with. */
  admission: z.object({ console: z.string(), key: z.string() }).nullable().default(null),
});
export type RoutingTable = z.output<typeof routingTable>;

/** An artifact that an address of its own stands for, and the builds that made it. */
export const namedArtifact = z.object({
  artifact: digest,
  /** Whom this address admits: the most closed of what wanted its builds. */
  admits: z.enum(admissions),
  /** The first builds that made it, or the one that the address names. */
  builds: z.array(
    z.object({
      project: z.string(),
      build: z.number(),
      commit: z.string(),
      admits: z.enum(admissions),
      /** Whether outsiders wrote it. */
      outsider: z.boolean(),
    }),
  ),
});
export type NamedArtifact = z.output<typeof namedArtifact>;

/** What makes one record of another. */
const changesOf = <Entry extends z.ZodType>(entry: Entry) =>
  z.object({ set: z.record(z.string(), entry), gone: z.array(z.string()) });

/** What an edge is told over its stream of orders, one JSON document a line. */
export const edgeOrder = z.discriminatedUnion('order', [
  z.object({
    order: z.literal('table'),
    table: routingTable,
    /** Shows an artifact to the service itself before anything names it. */
    lookKey: z.string(),
  }),
  /** The same, by what is another thing than in the table that the edge was told last. */
  z.object({
    order: z.literal('changes'),
    /** The revision of that one. */
    from: z.number(),
    table: routingTable.omit({ hosts: true, ended: true }),
    hosts: changesOf(routingEntry),
    ended: changesOf(routingTable.shape.ended.unwrap().valueType),
    lookKey: z.string(),
  }),
  z.object({ order: z.literal('prepare'), id: z.string(), artifact: digest }),
  z.object({ order: z.literal('beat') }),
]);
export type EdgeOrder = z.output<typeof edgeOrder>;

export const ordersRoute = route({
  method: 'GET',
  path: '/role/orders',
  summary: 'Gives an edge its orders: the routing table, what to prepare, and a beat',
  gives: 'application/x-ndjson',
  access: { in: 'role', role: 'edge' },
  query: z.object({
    instance,
    revision: z.coerce.number().int(),
    /** Whether the edge knows that a site can be for some people alone; one of 0.12 or before says nothing. */
    closed: z.literal('known').optional(),
    /** The revision of the table that the edge was told last: what changed since is enough. One that says nothing takes whole tables. */
    knows: z.coerce.number().int().optional(),
    /** The forms of manifests that the edge reads. */
    formats: z
      .string()
      .regex(/^\d{1,3}(?:,\d{1,3}){0,9}$/)
      .default('1'),
  }),
  body: nothing,
  reply: z.unknown(),
});
export const edgeAnswerRoute = route({
  method: 'POST',
  path: '/role/answers',
  summary: 'Says whether an edge has what it was to prepare',
  access: { in: 'role', role: 'edge' },
  query: nothing,
  body: z.strictObject({ id: z.string(), problem: z.string().nullable() }),
  reply: done,
});
/** What a host below the base of artifacts stands for. Edges ask for it when somebody asks them. */
export const artifactNameRoute = route({
  method: 'GET',
  path: '/role/artifact-names',
  summary: 'Says which artifact an address of its own stands for, and whom it admits',
  access: { in: 'role', role: 'edge' },
  query: z.object({ host: z.string().max(300) }),
  body: nothing,
  reply: z.object({
    /** The position of the log that it was read at: it holds until a table of a later one comes. */
    revision: z.number(),
    named: namedArtifact.nullable(),
  }),
});
/** The bytes of a blob, for an edge that does not share the store. */
export const blobRoute = route({
  method: 'GET',
  path: '/role/blobs/:digest',
  summary: 'Gives the bytes of a blob to an edge without the store',
  gives: 'application/octet-stream',
  access: { in: 'role', role: 'edge' },
  query: nothing,
  body: nothing,
  reply: z.unknown(),
});
/** The edge has the table of this revision on disk and answered with it. */
export const edgeConfirmRoute = route({
  method: 'POST',
  path: '/role/confirmations',
  summary: 'Says that an edge answers with a table and has it on disk',
  access: { in: 'role', role: 'edge' },
  query: nothing,
  body: z.strictObject({ instance, revision: z.number().int() }),
  reply: done,
});
const figure = z.number().int().nonnegative().max(1e15);
/** What visitors asked of an edge since the batch before: by environment, deploy and minute. */
export const figuresBatch = z.strictObject({
  number: z.number().int().positive(),
  rows: z
    .array(
      z.strictObject({
        project: z.string().max(60),
        environment: z.string().max(60),
        deploy: z.number().int().positive(),
        from: atMs,
        requests: figure,
        bytes: figure,
        found: figure,
        redirected: figure,
        missed: figure,
        failed: figure,
        slow: figure,
        misses: z.array(z.strictObject({ path: z.string().max(250), times: figure })).max(100),
      }),
    )
    .max(1000),
});
export type FiguresBatch = z.output<typeof figuresBatch>;

export const edgeBeatRoute = route({
  method: 'POST',
  path: '/role/beats',
  summary: 'Says that an edge is there, with what visitors asked of it',
  access: { in: 'role', role: 'edge' },
  query: nothing,
  body: z.strictObject({
    instance,
    revision: z.number().int(),
    figures: figuresBatch.nullable().default(null),
  }),
  reply: done,
});
