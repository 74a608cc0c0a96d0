import type { PullRequestReply, PullRequestSeen } from '@vaquero/contracts';
import {
  nameOfPullRequest,
  neverBuiltBy,
  refOfBranch,
  refOfPullRequest,
  tellingBuild,
  trustOf,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { buildsOfHead } from '../builds/build-rows.ts';
import { type ListedBuild, listOfRef } from '../builds/listed-build-rows.ts';
import { type PullRequestRow, type WordRow, wordFor } from '../changes/pull-request-rows.ts';
import { verdictsOf } from '../changes/verdict-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import { withAuthors } from '../people/authors.ts';
import { personById } from '../people/people-rows.ts';
import { addressOf, hostsOfArtifact } from '../projects/addresses.ts';
import { homeOf, type ProjectRow, refsKnown } from '../projects/project-rows.ts';
import {
  commitFacts,
  commitsBetween,
  commitsIn,
  directoryOf,
  filesBetween,
  forkPoint,
} from '../repositories/bare-repository.ts';
import { headSeen } from '../repositories/head-seen.ts';
import { viewRow } from '../views/view-build.ts';
import { viewEnvironments } from '../views/view-environments.ts';
import { mergeOutlook } from './merge-outlook.ts';
import { whatCompares } from './what-compares.ts';

const mostPushes = 30;

/** A pull request as people see it, with what was built of its head. */
export async function viewPullRequest(
  deps: Deps,
  project: ProjectRow,
  pull: PullRequestRow,
): Promise<PullRequestSeen> {
  return viewWith(deps, project, pull, await buildsOfHead(deps, project, pull));
}

async function viewWith(
  deps: Deps,
  project: ProjectRow,
  pull: PullRequestRow,
  built: readonly ListedBuild[],
): Promise<PullRequestSeen> {
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const { head } = pull;
  const [refs, person, facts, word, map] = await Promise.all([
    refsKnown(deps.db, project.repositoryId),
    personById(deps.db, pull.personId),
    head === null ? null : commitFacts(directory, head),
    head === null ? null : wordFor(deps.db, pull.id, project.id, head),
    mapOf(deps.db, project),
  ]);
  const never = neverBuiltBy(map, refOfPullRequest(pull.number), pull.into);
  const isOutsiders = trustOf(pull.from) === 'outsider';
  const into = refOfBranch(pull.into);
  const target = into === undefined ? undefined : refs.get(into);
  const isOpen = pull.state === 'open' && head !== null && target !== undefined;
  return {
    name: nameOfPullRequest(pull.number),
    title: pull.title,
    state: pull.state,
    isDraft: pull.isDraft,
    into: pull.into,
    from: pull.from,
    outsider: isOutsiders,
    takesWord: isOutsiders && never === null,
    openedBy: person?.shownAs ?? 'somebody',
    openedAt: pull.openedAt,
    endedAt: pull.endedAt,
    head: facts === null ? null : await headSeen(deps.db, facts),
    ahead: isOpen ? await commitsBetween(directory, target, head) : null,
    word,
    trouble: pull.trouble,
    says:
      isOutsiders && never !== null && pull.state === 'open'
        ? `The map has nothing of outsiders built (${never}).`
        : inWords(pull, word, built),
    builds: built.map(viewRow),
  };
}

/** One with what it brings. */
export async function viewWhole(
  deps: Deps,
  project: ProjectRow,
  pull: PullRequestRow,
): Promise<PullRequestReply> {
  const ref = refOfPullRequest(pull.number);
  const built = await buildsOfHead(deps, project, pull);
  const [seen, home, brings, preview, merge, pushes, said] = await Promise.all([
    viewWith(deps, project, pull, built),
    homeOf(deps.db, project),
    whatItBrings(deps, project, pull),
    previewOf(deps, project, ref),
    mergeOutlook(deps, project, pull),
    listOfRef(deps.db, project.id, ref, mostPushes),
    verdictsOf(deps.db, pull.id, project.id),
  ]);
  const compares = await whatCompares(deps, project, pull, [...built, ...pushes]);
  return {
    ...seen,
    home: home.name,
    ...brings,
    preview,
    seenAt: seen.outsider ? seenAt(deps, project, [...built, ...pushes]) : null,
    compares,
    merge,
    verdicts: said.map((one) => ({ ...one, isOfHead: one.commit === pull.head })),
    pushes: pushes.map(viewRow),
  };
}

/** Where the newest of some builds that made an artifact answers: by its own address, and for members. */
function seenAt(
  { config }: Deps,
  { name }: ProjectRow,
  all: readonly ListedBuild[],
): PullRequestReply['seenAt'] {
  const made = all.find((build) => build.artifact !== null);
  if (made === undefined || made.artifact === null) return null;
  const artifact = made.artifact;
  const [, host] = hostsOfArtifact(config, name, artifact, made.number);
  return { build: made.number, artifact, address: addressOf(host) };
}

/** The environment that lives for a pull request's head. */
async function previewOf(
  deps: Deps,
  project: ProjectRow,
  ref: string,
): Promise<PullRequestReply['preview']> {
  const [found] = await viewEnvironments(deps, project, (row) => row.ref === ref);
  if (found === undefined) return null;
  return {
    name: found.name,
    address: found.address,
    build: found.serves?.build ?? null,
    artifact: found.serves?.artifact ?? null,
    endsAt: found.family?.endsAt ?? null,
    family: found.family,
    admits: found.admits,
    isLent: found.isLent,
    may: found.may,
  };
}

async function whatItBrings(
  deps: Deps,
  project: ProjectRow,
  { state, head, into }: PullRequestRow,
): Promise<Pick<PullRequestReply, 'commits' | 'files'>> {
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const branch = refOfBranch(into);
  const refs = await refsKnown(deps.db, project.repositoryId);
  const target = branch === undefined ? undefined : refs.get(branch);
  if (state !== 'open' || head === null || target === undefined) return { commits: [], files: [] };
  const [commits, base] = await Promise.all([
    commitsIn(directory, target, head),
    forkPoint(directory, target, head),
  ]);
  const files = base === null ? [] : await filesBetween(directory, base, head, '');
  return { commits: await withAuthors(deps.db, commits), files: [...files] };
}

/** What it waits for, or what came of it, in one sentence. */
function inWords(
  pull: PullRequestRow,
  word: WordRow | null,
  built: readonly ListedBuild[],
): string {
  if (pull.state === 'merged') return `Its commits are in ${pull.into}.`;
  if (pull.state === 'closed') return 'It was closed, or its branch is gone.';
  if (pull.head === null) return 'Its branch has not been read yet.';
  if (trustOf(pull.from) === 'outsider' && word === null)
    return 'Waits for a member’s word: its code is an outsider’s.';
  const newest = tellingBuild(built.map(viewRow));
  const draft = pull.isDraft ? ' It is a draft: it has no environment until it is ready.' : '';
  if (newest === undefined)
    return `Neither the map nor a recipe sends pull requests into ${pull.into} anywhere.`;
  return `Build ${newest.number} of its head ${ends[newest.state]}.${draft}`;
}

const ends = {
  queued: 'is queued',
  waiting: 'waits',
  running: 'is running',
  reused: 'was known already',
  passed: 'passed',
  failed: 'failed',
  cancelled: 'was cancelled',
} as const;
