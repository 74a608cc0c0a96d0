import { allow, type Decision, refuse } from '../decision.ts';
import type { CommitId, RefName } from './ref-name.ts';

/** Whose code it is: of somebody who can push to the project's repository, or of anybody at all. */
export type Trust = 'trusted' | 'outsider';

/** A wish that a branch be merged into another one. */
export interface PullRequest {
  readonly number: number;
  /** The branch it would be merged into. */
  readonly into: string;
  /** Where its commits lie: a branch of the project's repository, or of one at another place. */
  readonly from: { readonly place: string | null; readonly branch: string };
  readonly state: 'open' | 'merged' | 'closed';
  /** It is built, and given no environment until it is ready. */
  readonly isDraft: boolean;
  /** Its newest commit that a look has seen. */
  readonly head: CommitId | null;
}

/** What a build knows of the pull request that its commit belongs to. */
export interface Proposed {
  readonly into: string;
  readonly trust: Trust;
  /** Of a draft: said where it goes, though it does not yet. */
  readonly isDraft?: boolean;
}

/** Whose code a pull request brings. Who can write to its branch decides, not who opened it. */
export function trustOf(from: PullRequest['from']): Trust {
  return from.place === null ? 'trusted' : 'outsider';
}

const refsOfPullRequests = 'refs/proposed/';

/** The ref that stands at a pull request's head. Nobody but Vaquero sets it. */
export function refOfPullRequest(number: number): RefName {
  return `${refsOfPullRequests}${number}` as RefName;
}

/** The number of the pull request whose head a ref is; undefined for other refs. */
export function pullRequestOf(ref: string): number | undefined {
  const read = /^refs\/proposed\/([1-9]\d{0,8})$/.exec(ref);
  return read === null ? undefined : Number(read[1]);
}

/** The name by which people and addresses call a pull request. */
export function nameOfPullRequest(number: number): string {
  return `pr-${number}`;
}

/** Reads such a name. Undefined when it is none. */
export function readPullRequestName(name: string): number | undefined {
  const read = /^pr-([1-9]\d{0,8})$/.exec(name);
  return read === null ? undefined : Number(read[1]);
}

/** What people call a ref: a branch or tag by its name, a pull request `pr-3`. */
export function nameOfRef(ref: string): string {
  const number = pullRequestOf(ref);
  return number === undefined
    ? ref.replace(/^refs\/(?:heads|tags)\//, '')
    : nameOfPullRequest(number);
}

/**
 * Whether a pull request may be merged as somebody saw it: neither its head nor the branch that it goes into has moved.
 * `target` is where that branch stands, null where it is gone. Refuses: pull-request-ended, pull-request-draft,
 * pull-request-moved, branch-moved. Returns where the branch stands.
 */
export function decideMerge(
  pull: PullRequest,
  seen: { readonly head: CommitId; readonly target: CommitId },
  target: CommitId | null,
): Decision<CommitId> {
  const name = nameOfPullRequest(pull.number);
  if (pull.state !== 'open') return refuse({ code: 'pull-request-ended', name, state: pull.state });
  if (pull.isDraft) return refuse({ code: 'pull-request-draft', name });
  if (pull.head !== seen.head)
    return refuse({ code: 'pull-request-moved', name, seen: seen.head, now: pull.head });
  return target === null || target !== seen.target
    ? refuse({ code: 'branch-moved', branch: pull.into, seen: seen.target, now: target })
    : allow(target);
}

/**
 * Whether the branch of a pull request, as it was seen, is brought up to what its target has; returns the target's commit.
 * Refuses: pull-request-ended, branch-elsewhere, pull-request-moved, branch-moved.
 */
export function decideBringIn(
  pull: PullRequest,
  seen: { readonly head: CommitId; readonly target: CommitId },
  target: CommitId | null,
): Decision<CommitId> {
  if (pull.state === 'open' && trustOf(pull.from) === 'outsider')
    return refuse({
      code: 'branch-elsewhere',
      name: nameOfPullRequest(pull.number),
      branch: pull.from.branch,
    });
  return decideMerge({ ...pull, isDraft: false }, seen, target);
}

/** What a member says of a commit that they looked at. */
export const verdicts = ['looks-right', 'not-yet'] as const;
export type Verdict = (typeof verdicts)[number];

/**
 * Whether a member's verdict on a commit is taken: on the head that they looked at, while the pull request is open.
 * Refuses: pull-request-ended, pull-request-moved.
 */
export function decideVerdict(pull: PullRequest, commit: CommitId): Decision<CommitId> {
  const name = nameOfPullRequest(pull.number);
  if (pull.state !== 'open') return refuse({ code: 'pull-request-ended', name, state: pull.state });
  if (pull.head !== commit)
    return refuse({ code: 'pull-request-moved', name, seen: commit, now: pull.head });
  return allow(commit);
}

/**
 * Whether a member's word lets an outsider's commit be built. The word is for the commit that was looked at, not
 * for whatever the outsider pushes next.
 * Refuses: pull-request-ended, no-word-needed, pull-request-moved.
 */
export function decideWord(pull: PullRequest, commit: CommitId): Decision<CommitId> {
  const name = nameOfPullRequest(pull.number);
  if (pull.state !== 'open') return refuse({ code: 'pull-request-ended', name, state: pull.state });
  if (trustOf(pull.from) === 'trusted') return refuse({ code: 'no-word-needed', name });
  if (pull.head !== commit)
    return refuse({ code: 'pull-request-moved', name, seen: commit, now: pull.head });
  return allow(commit);
}

/** What became of a pull request by what a look saw: its commits are in the branch, or its own branch is gone. */
export function endSeen(seen: {
  readonly isMerged: boolean;
  readonly isGone: boolean;
}): 'merged' | 'closed' | null {
  if (seen.isMerged) return 'merged';
  return seen.isGone ? 'closed' : null;
}
