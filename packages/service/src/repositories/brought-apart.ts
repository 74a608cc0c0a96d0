import { mkdtemp, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { CommitId } from '@vaquero/core';
import { clearLeft } from '../base/clear-left.ts';
import { makeClosed } from '../base/closed-folder.ts';
import type { ApiConfig } from '../base/config.ts';
import { makeBare } from './bare-repository.ts';
import { onePack } from './fetch-apart.ts';
import { type GitEnd, mostMemoryBytes, tryGit } from './git.ts';
import { type Credential, withReach } from './reach.ts';

/** So much is brought of a repository that may never be connected. */
export const mostBytesApart = 512 << 20;
const withinMs = 60_000;
const prefix = 'sight-';

/** What is to be brought of a repository elsewhere, and how much of it. */
export interface Apart {
  readonly place: string;
  readonly credential: Credential | null;
  /** The branch that the folder apart stands on. */
  readonly branch: string;
  /** Options of git-fetch(1) that leave out what is not needed. */
  readonly what: readonly string[];
  readonly refs: readonly string[];
}

/**
 * Brings refs of a repository elsewhere into a folder apart, a minute and 512 MiB at most, and keeps nothing of it behind
 * `use`, which is told how the fetch ended. Refuses as `withReach`.
 */
export async function broughtApart<T>(
  config: ApiConfig,
  { place, credential, branch, what, refs }: Apart,
  use: (directory: string, end: GitEnd) => Promise<T>,
): Promise<T> {
  const all = join(config.stateDirectory, 'sights');
  await makeClosed(all);
  await clearLeft(all, prefix);
  const apart = await mkdtemp(join(all, prefix));
  const directory = join(apart, 'repository.git');
  try {
    await makeBare(directory, branch);
    const end = await withReach(config, place, credential, (way) =>
      tryGit([...way.args, ...onePack, 'fetch', ...quiet, ...what, '--', way.place, ...refs], {
        cwd: directory,
        extra: way.extra,
        timeoutMs: withinMs,
        mostFileBytes: mostBytesApart,
        mostMemoryBytes: mostMemoryBytes.fetch,
      }),
    );
    return await use(directory, end);
  } finally {
    await rm(apart, { recursive: true, force: true });
  }
}

/** Whether a repository holds a commit. */
export async function holdsCommit(directory: string, commit: CommitId): Promise<boolean> {
  return (await tryGit(['cat-file', '-e', `${commit}^{commit}`], { cwd: directory })).ok;
}

const quiet = ['--quiet', '--no-tags', '--no-auto-gc', '--no-write-fetch-head'];
