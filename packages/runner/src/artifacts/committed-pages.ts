import { lstatSync } from 'node:fs';
import { listBeneath } from '../descriptors/list-beneath.ts';
import { reachBelow } from '../descriptors/reach.ts';

/** Entry pages that came with the commit, by their paths, and how the file system saw them before any step ran. */
export type PagesBefore = ReadonlyMap<string, string>;

/** Looks for the entry pages of a tree that no step has written to yet. */
export function pagesBefore(tree: string, entry: string): PagesBefore {
  const pages = listBeneath(tree, 200_000).filter((path) => path.split('/').at(-1) === entry);
  return stampsOf(tree, pages);
}

/** Those of them that no step has written anew since. */
export function unwrittenPages(tree: string, before: PagesBefore): ReadonlySet<string> {
  const now = stampsOf(tree, [...before.keys()]);
  return new Set([...before.keys()].filter((path) => now.get(path) === before.get(path)));
}

/** A file that is written to, or put in the place of another, has another time of change or another inode. */
function stampsOf(tree: string, paths: readonly string[]): PagesBefore {
  const reach = reachBelow(tree);
  try {
    return new Map(
      paths.flatMap((path) => {
        const at = reach.to(path);
        const stats = at === null ? undefined : lstatSync(at, { throwIfNoEntry: false });
        return stats === undefined ? [] : [[path, `${stats.ino} ${stats.ctimeMs}`] as const];
      }),
    );
  } finally {
    reach.close();
  }
}
