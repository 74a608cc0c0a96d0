import { verdicts } from '@vaquero/core';
import { z } from 'zod';
import { buildRow } from '../builds/build-routes.ts';
import { environmentSeen } from '../environments/environment-routes.ts';
import { pathParams } from '../http/path-params.ts';
import { route } from '../http/route.ts';
import {
  at,
  commitId,
  digest,
  headCommit,
  line,
  listedCommit,
  nothing,
  pageAfter,
  pageSize,
  reason,
  usualPage,
} from '../vocabulary.ts';

/** A pull request as people see it. */
export const pullRequestSeen = z
  .object({
    /** `pr-3`. */
    name: z.string(),
    title: z.string(),
    state: z.enum(['open', 'merged', 'closed']),
    /** It is built, and given no environment until it is ready. */
    isDraft: z.boolean(),
    into: z.string(),
    /** Where its commits lie; `place` is null for a branch of the repository itself. */
    from: z.object({ place: z.string().nullable(), branch: z.string() }),
    /** Its code is an outsider's: each commit is built on a member's word only, without values, caches or results of others. */
    outsider: z.boolean(),
    openedBy: z.string(),
    openedAt: at,
    endedAt: at.nullable(),
    head: headCommit.nullable(),
    /** Commits that it has and its target has not. */
    ahead: z.number().nullable(),
    /** Whether a member's word lets its commits be built: an outsider's, where the map does not say never. */
    takesWord: z.boolean(),
    /** Who let the head be built, and when; null where nobody has, or nobody need. */
    word: z.object({ by: z.string(), at }).nullable(),
    /** What keeps its commits from being read. */
    trouble: z.string().nullable(),
    /** One sentence: what it waits for, or what came of it. */
    says: z.string(),
    /** Builds of its head, newest first, whatever ref brought the commit. */
    builds: z.array(buildRow),
  })
  .meta({ id: 'PullRequest' });
export type PullRequestSeen = z.output<typeof pullRequestSeen>;

/** One pull request with what it brings: while it is open, counted from where it left its target. */
export const pullRequestReply = pullRequestSeen.extend({
  /** The project whose roles say who pushes, closes and merges. */
  home: z.string(),
  /** The environment that the map gives it; null where it has none. */
  preview: z
    .object({
      name: z.string(),
      address: z.string(),
      build: z.number().nullable(),
      artifact: digest.nullable(),
      endsAt: at.nullable(),
      family: environmentSeen.shape.family,
      admits: environmentSeen.shape.admits,
      isLent: z.boolean(),
      /** Who may do what to it. */
      may: environmentSeen.shape.may,
    })
    .nullable(),
  /** Of an outsider, whose builds reach no environment: where the newest one that made an artifact answers, for members. */
  seenAt: z.object({ build: z.number(), artifact: digest, address: z.string() }).nullable(),
  /** The builds whose artifacts tell what it changes: what its target serves, and its own. */
  compares: z.object({ environment: z.string(), before: z.number(), after: z.number() }).nullable(),
  /** What merging it would be and do; null where it has ended, or cannot be told yet. */
  merge: z
    .object({
      /** Where the branch that it is merged into stands. */
      target: commitId,
      how: z.enum(['nothing', 'fast-forward', 'commit', 'conflicts', 'impossible']),
      /** Files that both have changed. */
      paths: z.array(z.string()),
      /** Why it is impossible. */
      why: z.string().nullable(),
      /** Whether its repository is hosted here, so that it can be merged from here. */
      isHere: z.boolean(),
      /** What would come of it, a sentence each. */
      follows: z.array(z.string()),
    })
    .nullable(),
  /** What members say of its commits, newest first; `isOfHead` is false for what was said of a commit before. */
  verdicts: z.array(
    z.object({
      name: z.string(),
      by: z.string(),
      verdict: z.enum(verdicts),
      says: z.string(),
      commit: commitId,
      isOfHead: z.boolean(),
      at,
    }),
  ),
  /** Newest first, twenty at most. */
  commits: z.array(listedCommit),
  files: z.array(
    z.object({
      path: z.string(),
      added: z.number().nullable(),
      removed: z.number().nullable(),
    }),
  ),
  /** Builds of all its commits, newest first, thirty at most. */
  pushes: z.array(buildRow),
});
export type PullRequestReply = z.output<typeof pullRequestReply>;

/** Open ones first, newest first; behind them those that have ended, the last end first. */
export const listPullRequestsRoute = route({
  method: 'GET',
  path: '/api/projects/:project/pull-requests',
  summary: 'Lists pull requests, open ones first',
  access: { in: 'project', ability: 'read' },
  query: z
    .object({ after: pathParams.pullRequest.optional(), limit: pageSize })
    .default({ limit: usualPage }),
  body: nothing,
  reply: z.object({ pullRequests: z.array(pullRequestSeen), more: z.boolean() }),
  rest: ({ pullRequests, more }) => pageAfter(pullRequests, more, ({ name }) => name),
});
export const showPullRequestRoute = route({
  method: 'GET',
  path: '/api/projects/:project/pull-requests/:pullRequest',
  summary: 'Shows a pull request with what it brings',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: pullRequestReply,
});
/**
 * Opens a pull request: of a branch of the repository, or of one at another place, which makes its code an
 * outsider's. Only an operator may name a place on another host than the repository's own, or a path.
 */
export const openPullRequestRoute = route({
  method: 'POST',
  path: '/api/projects/:project/pull-requests',
  summary: 'Opens a pull request',
  refuses: [
    'branch-missing',
    'pull-request-open',
    'place-not-allowed',
    'not-allowed',
    'repository-not-found',
    'repository-denied',
    'repository-unreachable',
    'address-not-allowed',
    'path-not-allowed',
  ],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: z.strictObject({
    branch: line,
    place: z.string().min(1).max(1000).nullable().default(null),
    /** The project's own branch when left out. */
    into: line.optional(),
    title: line,
    isDraft: z.boolean().default(false),
  }),
  reply: pullRequestReply,
  made: ({ name }, { project }) => `/api/projects/${project}/pull-requests/${name}`,
});
/** A member's word that one commit of an outsider be built. It names the commit that was looked at. */
export const giveWordRoute = route({
  method: 'POST',
  path: '/api/projects/:project/pull-requests/:pullRequest/words',
  summary: 'Gives a member’s word that a commit of an outsider be built',
  refuses: [
    'pull-request-ended',
    'pull-request-moved',
    'no-word-needed',
    'outsiders-not-built',
    'commit-unreadable',
  ],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: z.strictObject({ commit: commitId }),
  reply: pullRequestReply,
});
export const closePullRequestRoute = route({
  method: 'POST',
  path: '/api/projects/:project/pull-requests/:pullRequest/close',
  summary: 'Closes a pull request',
  refuses: ['pull-request-ended'],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: nothing,
  reply: pullRequestReply,
});
/** Merges a pull request of a repository that is hosted here, as it was seen. Asked again, it stays merged. */
export const mergePullRequestRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/pull-requests/:pullRequest/merge',
  summary: 'Merges a pull request whose repository is hosted here',
  refuses: [
    'merges-elsewhere',
    'pull-request-ended',
    'pull-request-draft',
    'pull-request-moved',
    'branch-moved',
    'merge-conflicts',
  ],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: z.strictObject({ head: commitId, target: commitId }),
  reply: pullRequestReply,
});
/** Brings what its target has into a pull request's branch, both as they were seen. Asked again, nothing is left to bring. */
export const bringInRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/pull-requests/:pullRequest/target-brought-in',
  summary:
    'Brings what its target has into the branch of a pull request whose repository is hosted here',
  refuses: [
    'merges-elsewhere',
    'branch-elsewhere',
    'pull-request-ended',
    'pull-request-moved',
    'branch-moved',
    'merge-conflicts',
  ],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: z.strictObject({ head: commitId, target: commitId }),
  reply: pullRequestReply,
});
export const reopenPullRequestRoute = route({
  method: 'POST',
  path: '/api/projects/:project/pull-requests/:pullRequest/reopen',
  summary: 'Opens a closed pull request again',
  refuses: ['pull-request-open', 'pull-request-ended', 'branch-missing'],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: nothing,
  reply: pullRequestReply,
});
export const retargetPullRequestRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/pull-requests/:pullRequest/into',
  summary: 'Says into which other branch a pull request would be merged',
  refuses: ['pull-request-open', 'pull-request-ended', 'branch-missing'],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: z.strictObject({ into: line }),
  reply: pullRequestReply,
});
/** A draft is built, and given no environment until it is ready. */
export const setDraftRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/pull-requests/:pullRequest/draft',
  summary: 'Says whether a pull request is a draft, which is given no environment',
  refuses: ['pull-request-ended'],
  access: { in: 'project', ability: 'build' },
  query: nothing,
  body: z.strictObject({ isDraft: z.boolean() }),
  reply: pullRequestReply,
});
/** What a member says of the commit that they looked at; said again, it takes the place of what they said before. */
export const giveVerdictRoute = route({
  method: 'PUT',
  path: '/api/projects/:project/pull-requests/:pullRequest/verdict',
  summary: 'Says of a pull request’s newest commit that it looks right, or not yet',
  refuses: ['pull-request-ended', 'pull-request-moved'],
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: z.strictObject({ commit: commitId, verdict: z.enum(verdicts), says: reason.default('') }),
  reply: pullRequestReply,
});
