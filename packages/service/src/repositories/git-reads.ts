import type { TreeFile } from '@vaquero/core';
import { treeFilesIn } from './bare-repository.ts';
import { type TreeChanges, treeChanges } from './tree-changes.ts';

/**
 * Readings of trees that are remembered for a while. What a commit holds never changes, and a build asks for
 * the same several times; each asking of Git costs a process.
 */
export interface GitReads {
  readonly treeFiles: (
    directory: string,
    commit: string,
    paths: readonly string[],
  ) => Promise<readonly TreeFile[]>;
  readonly changes: (
    directory: string,
    from: string,
    to: string,
    paths: readonly string[],
  ) => Promise<TreeChanges | null>;
}

const mostTrees = 16;
/** A change can hold some megabytes. */
const mostChanges = 8;
/** Lists beyond this are read each time: remembered, they would take more memory than they save time. */
const longestList = 20_000;

/** Makes the memory of one api process. */
export function makeGitReads(): GitReads {
  const files = remember<readonly TreeFile[]>(mostTrees, (list) => list.length <= longestList);
  // A commit that is not known here yet may come.
  const changes = remember<TreeChanges | null>(mostChanges, (found) => found !== null);
  return {
    treeFiles: (directory, commit, paths) =>
      files([directory, commit, ...paths], () => treeFilesIn(directory, commit, paths)),
    changes: (directory, from, to, paths) =>
      changes([directory, from, to, ...paths], () => treeChanges(directory, from, to, paths)),
  };
}

/** Remembers the `most` newest results that are worth it, and lets askers for the same thing wait for one reading. */
function remember<Result>(
  most: number,
  isKept: (result: Result) => boolean,
): (about: readonly string[], read: () => Promise<Result>) => Promise<Result> {
  const known = new Map<string, Promise<Result>>();
  return (about, read) => {
    const key = about.join('\0');
    const found = known.get(key) ?? read();
    known.delete(key);
    known.set(key, found);
    const forget = (): void => {
      if (known.get(key) === found) known.delete(key);
    };
    found.then((result) => isKept(result) || forget(), forget);
    for (const [oldest] of known) {
      if (known.size <= most) break;
      known.delete(oldest);
    }
    return found;
  };
}
