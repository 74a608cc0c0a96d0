import { faultText } from '@vaquero/contracts';
import {
  type CommitId,
  type Instant,
  nameOfPullRequest,
  readCommitId,
  refOfPullRequest,
} from '@vaquero/core';
import { byVaquero, decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { Refused } from '../base/refused.ts';
import { type PullRequestRow, setPullRequest } from '../changes/pull-request-rows.ts';
import { inTransaction } from '../database/transaction.ts';
import { livingProjectsOf } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { fetchApart } from '../repositories/fetch-apart.ts';
import { mostMemoryBytes, tryGit } from '../repositories/git.ts';
import { type Reach, reach } from '../repositories/reach.ts';

/** What asking for a branch elsewhere came to; a commit that brings too much is named, and need not be tried again. */
export type Followed = 'moved' | 'same' | 'gone' | 'unread' | { readonly tooLarge: CommitId };

const fetchWithinMs = 300_000;

/**
 * Brings the head of a pull request from where its branch lies. A head that cannot be read stays where it was, with the
 * reason beside it. Writes nothing but the ref, which the next look reads. `tooLarge` is the commit of an earlier
 * answer that said so.
 */
export async function followOutsider(
  deps: Deps,
  repositoryId: string,
  pull: PullRequestRow,
  signal: AbortSignal,
  tooLarge?: CommitId,
): Promise<Followed> {
  const { place } = pull.from;
  if (place === null) return 'same';
  const directory = directoryOf(deps.config.stateDirectory, repositoryId);
  const branch = `refs/heads/${pull.from.branch}`;
  const way = await wayTo(deps, place);
  if (typeof way === 'string') return unread(deps, pull, way, signal);
  const listed = await tryGit([...way.args, 'ls-remote', '--', way.place, branch], {
    timeoutMs: 20_000,
    mostMemoryBytes: mostMemoryBytes.list,
    signal,
  });
  if (!listed.ok) return unread(deps, pull, listed.stderr, signal);
  const row = listed.stdout.split('\n').find((one) => one.endsWith(`\t${branch}`));
  if (row === undefined) return 'gone';
  const commit = readCommitId(row.split('\t')[0] ?? '');
  if (commit === undefined) return unread(deps, pull, 'its head is no commit id', signal);
  if (commit === tooLarge) return { tooLarge };
  const isNew = commit !== (await headIn(directory, pull.number));
  if (isNew) {
    const mostBytes = deps.config.outsiderFetchBytes;
    const fetched = await fetchApart(
      directory,
      { reach: way, branch: pull.from.branch, commit, ref: refOfPullRequest(pull.number) },
      { mostBytes, timeoutMs: fetchWithinMs, signal },
    );
    if (fetched === 'too-large') {
      const most = `${Math.round(mostBytes / (1 << 20))} MiB`;
      await unread(deps, pull, `its branch brings more than the ${most} that are taken`, signal);
      return { tooLarge: commit };
    }
    if (fetched !== 'brought') return unread(deps, pull, fetched.said, signal);
  }
  if (pull.trouble !== null) await setPullRequest(deps.db, pull.id, { trouble: null });
  return isNew || commit !== pull.head ? 'moved' : 'same';
}

/** How a place is reached, judged anew each time; or why it is not any more. */
async function wayTo(deps: Deps, place: string): Promise<Reach | string> {
  try {
    return await reach(deps.config, place);
  } catch (error) {
    if (error instanceof Refused) return faultText(error.refusal);
    throw error;
  }
}

async function headIn(directory: string, number: number): Promise<CommitId | undefined> {
  const ref = `${refOfPullRequest(number)}^{commit}`;
  const read = await tryGit(['rev-parse', '--verify', '--quiet', ref], { cwd: directory });
  return readCommitId(read.stdout.trim());
}

/** Says once why a head cannot be read. */
async function unread(
  deps: Deps,
  pull: PullRequestRow,
  said: string,
  signal: AbortSignal,
): Promise<Followed> {
  const trouble = /(?:fatal|error): (.*)/.exec(said)?.[1] ?? (said.trim() || 'no answer');
  if (!signal.aborted && trouble.slice(0, 300) !== pull.trouble)
    await setPullRequest(deps.db, pull.id, { trouble: trouble.slice(0, 300) });
  return 'unread';
}

/** Closes a pull request whose branch elsewhere is gone. */
export async function closeGone(
  deps: Deps,
  repositoryId: string,
  pull: PullRequestRow,
): Promise<void> {
  const projects = await livingProjectsOf(deps.db, repositoryId);
  await inTransaction(deps.db, async (tx) => {
    const at: Instant = deps.clock();
    if (!(await setPullRequest(tx, pull.id, { state: 'closed', endedAt: at }))) return;
    for (const project of projects)
      decide(tx, {
        at,
        kind: 'pull-request.closed',
        project,
        doing: byVaquero,
        facts: { pullRequest: pull.number, into: pull.into, head: pull.head, because: 'gone' },
      });
  });
  deps.log.info({ pullRequest: nameOfPullRequest(pull.number) }, 'a branch elsewhere is gone');
}
