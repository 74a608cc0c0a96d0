import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CommitId } from '@vaquero/core';
import { OutsideFailure } from '../base/refused.ts';
import { git, tryGit } from './git.ts';
import { requireBounded } from './git-trees.ts';
import { type CommitWords, writeCommit } from './merge-commits.ts';

/** A text that is to stand at a path, on top of a commit (null: of none). */
export interface FileOnTop {
  readonly base: CommitId | null;
  readonly path: string;
  readonly text: string;
}

/**
 * Writes the commit that has a file otherwise, and all else as it was. No branch moves. Throws CommitUnreadable for a
 * tree that holds more than a tree may. Source: git-read-tree(1), git-update-index(1), --cacheinfo.
 */
export async function commitFile(
  directory: string,
  { base, path, text }: FileOnTop,
  words: CommitWords,
): Promise<CommitId> {
  if (base !== null) await requireBounded(directory, base);
  const blob = await git(['hash-object', '-w', '--stdin'], { cwd: directory, input: text });
  // An index of its own: nothing is checked out, and two that commit at once have nothing in common.
  const folder = await mkdtemp(join(tmpdir(), 'vaquero-index-'));
  const withIndex = { cwd: directory, extra: { GIT_INDEX_FILE: join(folder, 'index') } };
  const run = async (...args: readonly string[]): Promise<string> => {
    const end = await tryGit(args, withIndex);
    if (!end.ok) throw new OutsideFailure('git', `${args[0]}: ${end.stderr.trim().slice(0, 500)}`);
    return end.stdout.trim();
  };
  try {
    if (base !== null) await run('read-tree', base);
    await run('update-index', '--add', '--replace', '--cacheinfo', `100644,${blob.trim()},${path}`);
    const tree = await run('write-tree');
    return await writeCommit(directory, tree, base === null ? [] : [base], words);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
