import { mkdir, mkdtemp, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { CommitId } from '@vaquero/core';
import { clearLeft } from '../base/clear-left.ts';
import { mostMemoryBytes, tryGit } from './git.ts';
import type { Reach } from './reach.ts';

/** A branch at a place that anybody may have named, and the ref of ours that is to be its commit. */
export interface BranchElsewhere {
  readonly reach: Reach;
  readonly branch: string;
  readonly commit: CommitId;
  readonly ref: string;
}

/** What it came to: `too-large` where it brings more bytes than are taken; or why it cannot be read. */
export type FetchedApart = 'brought' | 'too-large' | { readonly said: string };

/** One pack, however few its objects: files that are written one by one would each be counted alone. */
export const onePack = ['-c', 'fetch.unpackLimit=1'];
const quiet = ['--quiet', '--no-tags', '--no-auto-gc', '--no-write-fetch-head'];

const prefix = 'tmp_objdir-fetch-';

/**
 * Brings a commit from a branch elsewhere into a repository. It comes into a folder apart first, since Git leaves what
 * it was writing where a fetch fails, and a stranger's host can make it fail again and again; and no file there
 * grows beyond `mostBytes` (setrlimit(2), RLIMIT_FSIZE).
 */
export async function fetchApart(
  directory: string,
  { reach, branch, commit, ref }: BranchElsewhere,
  { mostBytes, timeoutMs, signal }: { mostBytes: number; timeoutMs: number; signal: AbortSignal },
): Promise<FetchedApart> {
  const objects = join(directory, 'objects');
  await clearLeft(objects, prefix);
  const apart = await mkdtemp(join(objects, prefix));
  try {
    await mkdir(join(apart, 'pack'));
    const fetched = await tryGit(
      [...reach.args, ...onePack, 'fetch', ...quiet, '--', reach.place, `refs/heads/${branch}`],
      {
        cwd: directory,
        timeoutMs,
        signal,
        mostFileBytes: mostBytes,
        mostMemoryBytes: mostMemoryBytes.fetch,
        extra: {
          ...reach.extra,
          GIT_OBJECT_DIRECTORY: apart,
          GIT_ALTERNATE_OBJECT_DIRECTORIES: objects,
        },
      },
    );
    if (!fetched.ok)
      return (await isFull(join(apart, 'pack'), mostBytes))
        ? 'too-large'
        : { said: fetched.stderr };
    await takeOver(join(apart, 'pack'), join(objects, 'pack'));
    // The branch may have moved since it was asked: then this commit did not come, and the next turn asks again.
    const set = await tryGit(['update-ref', ref, commit], { cwd: directory });
    return set.ok ? 'brought' : { said: set.stderr };
  } finally {
    await rm(apart, { recursive: true, force: true });
  }
}

/** Whether a file has grown to the limit: what Git says where the kernel ends its writing is not always the same. */
export async function isFull(folder: string, mostBytes: number): Promise<boolean> {
  const names = await readdir(folder);
  const sizes = await Promise.all(names.map(async (name) => (await stat(join(folder, name))).size));
  return sizes.some((size) => size >= mostBytes);
}

/** Moves packs into a store. The index goes last: it is what makes the others seen. */
async function takeOver(from: string, to: string): Promise<void> {
  await mkdir(to, { recursive: true });
  const isIndex = (name: string): boolean => name.endsWith('.idx');
  const names = await readdir(from);
  for (const name of names.toSorted((a, b) => Number(isIndex(a)) - Number(isIndex(b))))
    await rename(join(from, name), join(to, name));
}
