import type { pullRequestRoutes } from '@vaquero/contracts';
import { may, nameOfPullRequest, type PullRequest, refOfBranch, trustOf } from '@vaquero/core';
import type { z } from 'zod';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused, refuseField } from '../base/refused.ts';
import {
  insertPullRequest,
  openPullRequests,
  pullRequestByNumber,
} from '../changes/pull-request-rows.ts';
import type { Tx } from '../database/pool.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Done, NoteDone } from '../idempotency/kept-call-rows.ts';
import type { Caller } from '../people/caller.ts';
import {
  branchesAmong,
  lockRepository,
  type ProjectRow,
  refsKnown,
  repositoryById,
} from '../projects/project-rows.ts';
import { directoryOf, isAncestor } from '../repositories/bare-repository.ts';
import { lookAt } from '../repositories/repository-elsewhere.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { isOnHostOf } from '../repositories/submodules.ts';
import { followOutsider } from './outsider-branch.ts';

/** How long opening waits for the first fetch; a longer one is begun again behind it. */
const firstWithinMs = 20_000;

type Wanted = z.output<typeof pullRequestRoutes.openPullRequestRoute.body> & {
  readonly caller: Caller;
};

/**
 * Opens a pull request and looks at it. What stands in the way of reading its branch is said at once and nothing
 * is kept. Returns its number.
 * Refuses: branch-missing, pull-request-open, invalid-request, place-not-allowed, not-allowed, repository-*.
 */
export async function openPullRequest(
  deps: Deps,
  doorbell: Doorbell,
  project: ProjectRow,
  wanted: Wanted,
  note: NoteDone,
): Promise<Done<number>> {
  const { repositoryId } = project;
  const { caller } = wanted;
  const into = wanted.into ?? project.branch;
  const place = await placeOf(deps, project, wanted.place, wanted.branch, caller);
  const from: PullRequest['from'] = { place, branch: wanted.branch };
  await refuseUnmergeable(deps, project, from, into);
  const done = await inTransaction(deps.db, async (tx) => {
    await lockRepository(tx, repositoryId);
    await refuseTwin(tx, project, { id: null, from, into });
    const openedAt = deps.clock();
    const made = await insertPullRequest(tx, repositoryId, {
      id: deps.newId(),
      title: wanted.title,
      into,
      from,
      isDraft: wanted.isDraft,
      personId: caller.personId,
      openedAt,
    });
    decide(tx, {
      at: openedAt,
      kind: 'pull-request.opened',
      project,
      doing: caller.doing,
      facts: { pullRequest: made, into, branch: from.branch, place, trust: trustOf(from) },
    });
    return note(tx, made);
  });
  const made = await pullRequestByNumber(deps.db, repositoryId, done.kept);
  if (made !== undefined)
    await followOutsider(deps, repositoryId, made, AbortSignal.timeout(firstWithinMs));
  await doorbell.ringAndWait(repositoryId, { kind: 'person', doing: caller.doing });
  return done;
}

/** Refuses (pull-request-open) where another open one asks for the same. */
export async function refuseTwin(
  tx: Tx,
  { repositoryId }: ProjectRow,
  { id, from, into }: Pick<PullRequest, 'from' | 'into'> & { readonly id: string | null },
): Promise<void> {
  const twin = (await openPullRequests(tx, repositoryId)).find(
    (one) =>
      one.id !== id &&
      one.into === into &&
      one.from.branch === from.branch &&
      one.from.place === from.place,
  );
  if (twin !== undefined)
    refused({
      code: 'pull-request-open',
      name: nameOfPullRequest(twin.number),
      branch: from.branch,
      into,
    });
}

/** Where the branch lies, once it was seen there; null for the repository itself. */
async function placeOf(
  deps: Deps,
  project: ProjectRow,
  place: string | null,
  branch: string,
  caller: Caller,
): Promise<string | null> {
  if (place === null) return null;
  const repository = await repositoryById(deps.db, project.repositoryId);
  // Whoever may build could otherwise send the service to any address that it reaches.
  if (!isOnHostOf(repository.kind === 'http' ? repository.place : null, place))
    requireOperator(caller, place);
  if (!place.startsWith('/') && !URL.canParse(place)) return refuseField('place', 'is no address');
  const source = place.startsWith('/')
    ? ({ kind: 'path', path: place } as const)
    : ({ kind: 'http', url: place } as const);
  // What is not the project's own is read as anybody may read it.
  const seen = await lookAt(deps.config, source);
  if (!seen.branches.includes(branch))
    return refused({ code: 'branch-missing', branch, branches: seen.branches.slice(0, 20) });
  return seen.place;
}

function requireOperator(caller: Caller, place: string): void {
  const isPath = place.startsWith('/');
  if (!isPath && !/^https?:\/\//.test(place))
    refuseField('place', 'must be an http(s) address or an absolute path');
  if (!may(caller.grants, 'operate', null)) refused({ code: 'place-not-allowed', place });
}

/** Refuses what could not be merged: a branch or a target that is not there, or nothing to bring. */
export async function refuseUnmergeable(
  deps: Deps,
  project: ProjectRow,
  from: PullRequest['from'],
  into: string,
): Promise<void> {
  const [source, target] = [refOfBranch(from.branch), refOfBranch(into)];
  if (source === undefined || target === undefined)
    return refuseField(source === undefined ? 'branch' : 'into', 'is no name of a branch');
  const refs = await refsKnown(deps.db, project.repositoryId);
  const branches = branchesAmong(refs);
  const onto = refs.get(target);
  if (onto === undefined)
    return refused({ code: 'branch-missing', branch: into, branches: branches.slice(0, 20) });
  if (from.place !== null) return;
  const head = refs.get(source);
  if (head === undefined)
    return refused({
      code: 'branch-missing',
      branch: from.branch,
      branches: branches.slice(0, 20),
    });
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  if (await isAncestor(directory, head, onto))
    return refuseField('branch', `has nothing that ${into} has not`);
}
