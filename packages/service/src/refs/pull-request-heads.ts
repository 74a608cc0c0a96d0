import {
  type CommitId,
  endSeen,
  type RefName,
  readCommitId,
  refOfBranch,
  refOfPullRequest,
} from '@vaquero/core';
import type { Deps } from '../deps.ts';
import { isAncestor, setRefs } from '../repositories/bare-repository.ts';
import { tryGit } from '../repositories/git.ts';
import { type PullRequestRow, setPullRequest } from './pull-request-rows.ts';

type Refs = ReadonlyMap<RefName, CommitId>;

/** Where the heads of open pull requests stand, as Git says. */
interface Heads {
  readonly refs: Refs;
  /** Those whose branch is there no more. */
  readonly gone: readonly PullRequestRow[];
}

/**
 * Reads the heads of a repository's open pull requests. `seen` are its own refs as Git has them; where they are only
 * those that a push named, nobody else's branch is asked for. A head that cannot be read stays where it was, with
 * the reason beside it.
 */
export async function headsOf(
  deps: Deps,
  directory: string,
  open: readonly PullRequestRow[],
  seen: Refs,
  isWhole: boolean,
): Promise<Heads> {
  const refs = new Map<RefName, CommitId>();
  const gone: PullRequestRow[] = [];
  const moved = new Map<RefName, CommitId>();
  for (const pull of open) {
    const ref = refOfPullRequest(pull.number);
    const head =
      pull.from.place === null
        ? ownHead(pull, seen, isWhole)
        : isWhole
          ? await headElsewhere(deps, directory, pull, pull.from.place)
          : undefined;
    if (head === undefined) continue;
    if (head === null) gone.push(pull);
    else refs.set(ref, head);
    if (head !== null && head !== pull.head && pull.from.place === null) moved.set(ref, head);
  }
  await setRefs(directory, moved);
  return { refs, gone };
}

/** Undefined: nothing is known of it by this look; null: the branch is gone. */
function ownHead(pull: PullRequestRow, seen: Refs, isWhole: boolean): CommitId | null | undefined {
  const branch = refOfBranch(pull.from.branch);
  const commit = branch === undefined ? undefined : seen.get(branch);
  return commit ?? (isWhole ? null : undefined);
}

async function headElsewhere(
  deps: Deps,
  directory: string,
  pull: PullRequestRow,
  place: string,
): Promise<CommitId | null | undefined> {
  const branch = `refs/heads/${pull.from.branch}`;
  // A host that is allowed could otherwise send the service on to one that is not.
  const quiet = ['-c', 'http.followRedirects=false'];
  const listed = await tryGit([...quiet, 'ls-remote', '--', place, branch], { timeoutMs: 20_000 });
  if (!listed.ok) return unread(deps, pull, listed.stderr);
  const row = listed.stdout.split('\n').find((one) => one.endsWith(`\t${branch}`));
  if (row === undefined) return null;
  const commit = readCommitId(row.split('\t')[0] ?? '');
  if (commit === undefined || commit === pull.head) {
    if (pull.trouble !== null) await setPullRequest(deps.db, pull.id, { trouble: null });
    return pull.head ?? undefined;
  }
  const ref = refOfPullRequest(pull.number);
  const fetched = await tryGit(
    [
      ...quiet,
      'fetch',
      '--quiet',
      '--no-tags',
      '--no-auto-gc',
      '--no-write-fetch-head',
      '--',
      place,
      `+${branch}:${ref}`,
    ],
    { cwd: directory, timeoutMs: 300_000 },
  );
  if (!fetched.ok) return unread(deps, pull, fetched.stderr);
  const read = await tryGit(['rev-parse', '--verify', '--quiet', `${ref}^{commit}`], {
    cwd: directory,
  });
  if (pull.trouble !== null) await setPullRequest(deps.db, pull.id, { trouble: null });
  return readCommitId(read.stdout.trim());
}

/** Says why a head cannot be read, once; it stays where it was. */
async function unread(
  deps: Deps,
  pull: PullRequestRow,
  said: string,
): Promise<CommitId | undefined> {
  const trouble = (/(?:fatal|error): (.*)/.exec(said)?.[1] ?? (said.trim() || 'no answer')).slice(
    0,
    300,
  );
  if (trouble !== pull.trouble) await setPullRequest(deps.db, pull.id, { trouble });
  return pull.head ?? undefined;
}

/** An open pull request that a look ends, and how. */
export interface Ended {
  readonly pull: PullRequestRow;
  readonly as: 'merged' | 'closed';
}

/**
 * Which pull requests a look ends: those whose commits are in their target by now, and those whose branch is gone.
 * Only targets that moved are asked, since each asks Git.
 */
export async function endedOf(
  directory: string,
  open: readonly PullRequestRow[],
  { refs, gone }: Heads,
  seen: Refs,
  moved: ReadonlySet<RefName>,
): Promise<readonly Ended[]> {
  const all = await Promise.all(
    open.map(async (pull): Promise<readonly Ended[]> => {
      const into = refOfBranch(pull.into);
      const target = into === undefined ? undefined : seen.get(into);
      const isGone = gone.includes(pull);
      const head = refs.get(refOfPullRequest(pull.number)) ?? pull.head;
      const isAsked = target !== undefined && (isGone || (into !== undefined && moved.has(into)));
      const isMerged = isAsked && head !== null && (await isAncestor(directory, head, target));
      const as = endSeen({ isMerged, isGone });
      return as === null ? [] : [{ pull, as }];
    }),
  );
  return all.flat();
}
