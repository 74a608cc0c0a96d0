import type { PullRequestSeen } from '@vaquero/contracts';
import { type Instant, nameOfPullRequest, refOfBranch, trustOf } from '@vaquero/core';
import { and, eq } from 'drizzle-orm';
import { type ListedBuild, listWhere } from '../builds/list-builds.ts';
import { viewRow } from '../builds/view-build.ts';
import { builds } from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import { personById } from '../people/people-rows.ts';
import { type ProjectRow, refsKnown } from '../projects/project-rows.ts';
import { commitFacts, commitsBetween, directoryOf } from '../repositories/bare-repository.ts';
import { type PullRequestRow, type WordRow, wordFor } from './pull-request-rows.ts';

const mostBuilds = 10;

/** A pull request as people see it, with what was built of its head. */
export async function viewPullRequest(
  deps: Deps,
  project: ProjectRow,
  pull: PullRequestRow,
): Promise<PullRequestSeen> {
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const { head } = pull;
  const [refs, person, facts, word, built] = await Promise.all([
    refsKnown(deps.db, project.repositoryId),
    personById(deps.db, pull.personId),
    head === null ? null : commitFacts(directory, head),
    head === null ? null : wordFor(deps.db, pull.id, project.id, head),
    head === null ? [] : buildsOfCommit(deps, project, head),
  ]);
  const into = refOfBranch(pull.into);
  const target = into === undefined ? undefined : refs.get(into);
  const isOpen = pull.state === 'open' && head !== null && target !== undefined;
  return {
    name: nameOfPullRequest(pull.number),
    title: pull.title,
    state: pull.state,
    into: pull.into,
    from: pull.from,
    outsider: trustOf(pull.from) === 'outsider',
    openedBy: person?.shownAs ?? 'somebody',
    openedAt: pull.openedAt,
    endedAt: pull.endedAt,
    head:
      facts === null
        ? null
        : {
            commit: facts.id,
            subject: facts.subject,
            author: facts.author,
            at: facts.at as Instant,
          },
    ahead: isOpen ? await commitsBetween(directory, target, head) : null,
    word,
    trouble: pull.trouble,
    says: inWords(pull, word, built),
    builds: built.map(viewRow),
  };
}

function buildsOfCommit(
  deps: Deps,
  project: ProjectRow,
  commit: string,
): Promise<readonly ListedBuild[]> {
  const which = and(eq(builds.projectId, project.id), eq(builds.commitId, commit));
  return listWhere(deps.db, which, mostBuilds);
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
    return 'Waits for a member’s word: its code is an outsider’s, and each of its commits is built on one only.';
  const [newest] = built;
  if (newest === undefined)
    return `No recipe is for pull requests into ${pull.into} (for: {proposed-into: ${pull.into}}).`;
  return `Build ${newest.number} of its head ${ends[newest.state]}.`;
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
