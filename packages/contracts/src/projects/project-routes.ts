import { z } from 'zod';
import { route } from '../http/route.ts';
import {
  at,
  headCommit,
  line,
  nothing,
  pageAfter,
  pageSize,
  reason,
  usualPage,
} from '../vocabulary.ts';
import { confirmedKey, credentialSeen, sshAddress, token } from './credential-routes.ts';

const elsewhere = [
  z.strictObject({
    kind: z.literal('http'),
    url: z.url({ protocol: /^https?$/ }).max(1000),
    /** What a private one is read with. */
    credential: token.optional(),
  }),
  /** Over SSH, with a key that was made for it here. */
  z.strictObject({ kind: z.literal('ssh'), url: sshAddress, ...confirmedKey.shape }),
  z.strictObject({ kind: z.literal('path'), path: z.string().min(1).max(1000) }),
] as const;

export const repositoryElsewhere = z.discriminatedUnion('kind', elsewhere);

export const repositorySource = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('hosted') }),
  ...elsewhere,
  /** The repository of another project. */
  z.strictObject({ kind: z.literal('shared'), project: z.string().min(1).max(100) }),
]);

export const projectSeen = z
  .object({
    name: z.string(),
    /** When it ended; null for one that lives. */
    endedAt: at.nullable(),
    folder: z.string(),
    branch: z.string(),
    repository: z.object({
      kind: z.enum(['hosted', 'http', 'ssh', 'path']),
      /** Where to push for a hosted one, where it is read from otherwise. */
      place: z.string(),
      /** The project whose roles say who pushes and merges; its own name where no other project shares the repository. */
      home: z.string(),
      look: z.number(),
      lookedAt: at.nullable(),
      /** One sentence: what its state is. */
      state: z.string(),
      trouble: z.string().nullable(),
      /** What a private one is read with. */
      credential: credentialSeen.nullable(),
    }),
    head: headCommit.nullable(),
    addresses: z.array(z.object({ environment: z.string(), address: z.string() })),
    lastBuild: z.object({ number: z.number(), state: z.string() }).nullable(),
    /** The pull request of an outsider whose commit waits longest for a member's word. */
    word: z.object({ name: z.string(), title: z.string(), since: at }).nullable(),
  })
  .meta({ id: 'Project' });

/** What may stand in the way of looking at a repository. */
const whereLooked = [
  'repository-not-found',
  'repository-denied',
  'repository-unreachable',
  'address-not-allowed',
  'path-not-allowed',
  'token-needs-https',
  'key-unknown',
  'host-key-changed',
  'host-key-unconfirmed',
  'not-found',
] as const;

const firstMap = z
  .string()
  .max(1 << 16)
  .nullable()
  .default(null);

export const listProjectsRoute = route({
  method: 'GET',
  path: '/api/projects',
  summary: 'Lists the projects that one may see, by name',
  access: { in: 'self' },
  query: z
    .object({ after: z.string().max(100).optional(), limit: pageSize })
    .default({ limit: usualPage }),
  body: nothing,
  reply: z.object({ projects: z.array(projectSeen), more: z.boolean() }),
  rest: ({ projects, more }) => pageAfter(projects, more, ({ name }) => name),
});
export const makeProjectRoute = route({
  method: 'POST',
  path: '/api/projects',
  summary: 'Makes a project with its repository and environments',
  refuses: [
    'name-invalid',
    'name-taken',
    'branch-missing',
    'recipe-invalid',
    'map-invalid',
    'project-ended',
    ...whereLooked,
  ],
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: z.strictObject({
    name: z.string().max(100),
    branch: line.default('main'),
    folder: z.string().max(255).default(''),
    repository: repositorySource,
    /** The text of a recipe that holds from the start, wherever a commit has no recipe file of its own. */
    recipe: z
      .string()
      .max(1 << 16)
      .nullable()
      .default(null),
    /** The text of its first map; left out: staging follows the branch, production takes what staging serves, previews of pull requests. */
    map: firstMap,
    /** Of a repository that is there: whether its newest commit is built now, or nothing before the next push. */
    begin: z.enum(['now', 'next-push']).default('now'),
  }),
  reply: projectSeen,
  made: ({ name }) => `/api/projects/${name}`,
});
/** The newest commit of a branch, as one sees it before a project is made of it. */
const firstSight = z.object({
  branch: z.string(),
  head: headCommit,
  files: z.number(),
  bytes: z.number(),
  languages: z.array(z.object({ name: z.string(), percent: z.number() })),
  /** Folders that the project may be, the root first; with how each would be built. */
  folders: z.array(
    z.object({
      folder: z.string(),
      recipe: z.object({
        from: z.enum(['file', 'proposed']),
        /** As the file that it is, or would be; null where none can be said before a first build. */
        text: z.string().nullable(),
        because: z.array(z.string()),
        /** What is wrong with the file. */
        fault: z.string().nullable(),
        steps: z.array(z.string()),
        /** Values that its steps are given by name: nobody has set them yet. */
        reads: z.array(z.string()),
      }),
    }),
  ),
});

/** What a project that is to be made would be called, where it would answer, and what is at its repository. Nothing is written. */
export const tryProjectRoute = route({
  method: 'POST',
  path: '/api/projects/trials',
  summary:
    'Says whether a name is free, where a project of it would answer, and what is at a repository',
  refuses: whereLooked,
  access: { in: 'installation', ability: 'operate' },
  query: nothing,
  body: z.strictObject({
    name: z.string().max(100),
    repository: repositorySource.nullable().default(null),
    /** The branch whose newest commit is looked at; left out: the one that the repository names first. */
    branch: line.optional(),
    /** A folder beside those that are found. */
    folder: z.string().max(255).default(''),
    /** The first map, as somebody writes it: it says which addresses there are. */
    map: firstMap,
  }),
  reply: z.object({
    /** What is wrong with the name; null where it may be had. */
    fault: z.string().nullable(),
    /** Names near a taken one that may be had. */
    free: z.array(z.string()),
    /** Where it would answer. */
    addresses: z.array(z.object({ environment: z.string(), address: z.string() })),
    /** What is at the repository, two hundred branches at most; null where none was asked about. */
    repository: z
      .object({
        place: z.string(),
        branches: z.array(z.string()),
        first: z.string().nullable(),
        /** What its newest commit holds; null where there is none, or it is hosted here and empty. */
        sight: firstSight.nullable(),
        /** Why there is none, where there should be one. */
        unseen: z.string().nullable(),
      })
      .nullable(),
  }),
});
export type FirstSight = z.output<typeof firstSight>;
export type ProjectTrial = z.output<typeof tryProjectRoute.reply>;
export const showProjectRoute = route({
  method: 'GET',
  path: '/api/projects/:project',
  summary: 'Shows a project and its repository',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: projectSeen,
});
/**
 * Reads a project's repository from another address from now on. It is tried first, and must be the same repository unless
 * another one is meant. What it was read with goes with the old address.
 */
export const moveRepositoryRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/repository',
  summary: 'Has the repository of a project read from another address from now on',
  refuses: [
    ...whereLooked,
    'branch-missing',
    'repository-another',
    'repository-hosted',
    'changed-since',
  ],
  access: { in: 'project', ability: 'operate' },
  query: nothing,
  body: z.strictObject({
    repository: repositoryElsewhere,
    reason,
    /** Where it is read from now, as whoever asks saw it. */
    from: z.string().max(1000),
    /** It may be another repository: its commits are not those that were built so far. */
    isAnother: z.boolean().default(false),
  }),
  reply: projectSeen,
});
/** A person rings the doorbell: the repository's refs are read now. */
export const lookRoute = route({
  method: 'POST',
  path: '/api/projects/:project/looks',
  summary: 'Reads the refs of a project’s repository now',
  refuses: [
    'repository-not-found',
    'repository-denied',
    'repository-unreachable',
    'address-not-allowed',
    'path-not-allowed',
    'host-key-changed',
  ],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: nothing,
  reply: projectSeen,
});
