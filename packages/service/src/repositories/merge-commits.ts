import { type CommitId, type RefName, readCommitId } from '@vaquero/core';
import { OutsideFailure } from '../base/refused.ts';
import { isAncestor } from './bare-repository.ts';
import { tryGit } from './git.ts';
import { requireBounded } from './git-trees.ts';
import { CommitUnreadable } from './tree-size.ts';

/** What a merge of one commit into another would be. */
export type Merge =
  | { readonly how: 'nothing' | 'fast-forward' }
  /** `tree` is what both come to. */
  | { readonly how: 'commit'; readonly tree: string }
  | { readonly how: 'conflicts'; readonly paths: readonly string[] }
  /** They have no commit in common, or hold more than can be merged here. */
  | { readonly how: 'impossible'; readonly why: string };

/** Merging holds what both sides wrote in memory, whoever wrote it. */
const limits = { timeoutMs: 20_000, mostMemoryBytes: 2 ** 30, mostFileBytes: 2 ** 30 };
const mostPaths = 50;

/** What was asked before, or is being asked: a page that many look at asks Git once. */
const known = new Map<string, Promise<Merge>>();
const mostKnown = 1_000;

/** Says what a merge of `head` into `target` would be. Only objects are written: no branch moves. */
export function mergeOf(directory: string, target: CommitId, head: CommitId): Promise<Merge> {
  const key = `${directory} ${target} ${head}`;
  const before = known.get(key);
  if (before !== undefined) return before;
  const found = tryMerge(directory, target, head);
  if (known.size >= mostKnown) known.clear();
  known.set(key, found);
  found.catch(() => known.delete(key));
  return found;
}

async function tryMerge(directory: string, target: CommitId, head: CommitId): Promise<Merge> {
  if (await isAncestor(directory, head, target)) return { how: 'nothing' };
  if (await isAncestor(directory, target, head)) return { how: 'fast-forward' };
  try {
    await Promise.all([target, head].map((commit) => requireBounded(directory, commit)));
  } catch (error) {
    if (error instanceof CommitUnreadable) return { how: 'impossible', why: error.message };
    throw error;
  }
  // Words and answer: git-merge-tree(1). With conflicts it says their paths after the tree, and ends with 1.
  const end = await tryGit(
    ['merge-tree', '--write-tree', '-z', '--name-only', '--no-messages', target, head],
    { cwd: directory, ...limits },
  );
  const [tree = '', ...paths] = end.stdout.split('\0').filter((part) => part !== '');
  if (readCommitId(tree) === undefined) {
    if (/unrelated histories/.test(end.stderr))
      return { how: 'impossible', why: 'they have no commit in common' };
    return { how: 'impossible', why: 'Git cannot merge them within its limits' };
  }
  if (end.ok) return { how: 'commit', tree };
  return { how: 'conflicts', paths: [...new Set(paths)].slice(0, mostPaths) };
}

/** Who a commit is of, and what it says. */
export interface CommitWords {
  readonly name: string;
  readonly mail: string;
  readonly message: string;
}

/** Somebody as the author of what is committed here. Addresses that they have proven are their own: this one reaches nobody (RFC 2606). */
export function authorHere({
  name,
  shownAs,
}: {
  readonly name: string;
  readonly shownAs: string;
}): Omit<CommitWords, 'message'> {
  return { name: shownAs, mail: `${name}@people.invalid` };
}

/** Writes a commit of a tree. */
export async function writeCommit(
  directory: string,
  tree: string,
  parents: readonly CommitId[],
  { name, mail, message }: CommitWords,
): Promise<CommitId> {
  const extra = {
    GIT_AUTHOR_NAME: name,
    GIT_AUTHOR_EMAIL: mail,
    GIT_COMMITTER_NAME: name,
    GIT_COMMITTER_EMAIL: mail,
  };
  const args = ['commit-tree', tree, ...parents.flatMap((parent) => ['-p', parent])];
  const end = await tryGit(args, { cwd: directory, input: message, extra });
  const made = readCommitId(end.stdout.trim());
  if (!end.ok || made === undefined)
    throw new OutsideFailure('git', `commit-tree: ${end.stderr.trim().slice(0, 500)}`);
  return made;
}

/** Moves a branch from one commit to another, or makes it (null); false where it stands elsewhere by now. */
export async function moveBranch(
  directory: string,
  ref: RefName,
  { from, to }: { readonly from: CommitId | null; readonly to: CommitId },
): Promise<boolean> {
  if ((await tryGit(['update-ref', ref, to, from ?? ''], { cwd: directory })).ok) return true;
  const now = (await tryGit(['rev-parse', '--verify', '--quiet', ref], { cwd: directory })).stdout;
  if (now.trim() === (from ?? '')) throw new OutsideFailure('git', `${ref} cannot be moved`);
  return false;
}
