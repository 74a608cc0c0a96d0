import { closeSync, type Stats } from 'node:fs';
import { lstat, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { codeOf, enter, inFolder, openFolder } from '../descriptors/beneath.ts';

/** No honest folder lies deeper; each level holds a descriptor. */
const deepest = 500;
/** What an entry takes at least, in the file system's own books: names without contents fill a disk too. */
const leastBytes = 1024;

/**
 * Bytes of all that lies below a folder but not in those of `except`; stops counting behind `enough`. Goes by
 * descriptors, so that no path is too long to be counted; a folder that cannot be read, or lies too deep, counts
 * without end. A file counts its length, or its blocks where they are more: what a sparse one does not take yet it can
 * take at any time. Files that vanish meanwhile count nothing.
 */
export async function bytesIn(
  directory: string,
  enough: number,
  except: readonly string[] = [],
): Promise<number> {
  const counting: Counting = { sum: 0, enough, except, seen: new Set() };
  let top: number;
  try {
    top = openFolder(directory);
  } catch (error) {
    // The build has ended and its folder was moved away.
    if (codeOf(error) === 'ENOENT') return 0;
    throw error;
  }
  await countFolder(counting, top, directory, 0).finally(() => closeSync(top));
  return counting.sum;
}

interface Counting {
  sum: number;
  readonly enough: number;
  readonly except: readonly string[];
  /** Inodes with several names. */
  readonly seen: Set<number>;
}

async function countFolder(
  counting: Counting,
  folder: number,
  path: string,
  depth: number,
): Promise<void> {
  const entries = await readdir(inFolder(folder, '.'), { withFileTypes: true }).catch(gone);
  if (entries === 'unreadable' || depth > deepest) counting.sum = Number.POSITIVE_INFINITY;
  if (!Array.isArray(entries)) return;
  for (const entry of entries) {
    if (counting.sum > counting.enough) return;
    const at = join(path, entry.name);
    if (!entry.isDirectory()) {
      const stats = await lstat(inFolder(folder, entry.name)).catch(gone);
      counting.sum += bytesOf(stats, counting.seen);
    } else if (!counting.except.includes(at)) {
      counting.sum += leastBytes;
      const next = enter(folder, entry.name);
      // One that is gone, or is none any more, is passed by.
      if (typeof next === 'number')
        await countFolder(counting, next, at, depth + 1).finally(() => closeSync(next));
    }
  }
}

function bytesOf(stats: Stats | 'gone' | 'unreadable', seen: Set<number>): number {
  if (stats === 'gone') return 0;
  if (stats === 'unreadable') return Number.POSITIVE_INFINITY;
  if (stats.nlink > 1) {
    if (seen.has(stats.ino)) return leastBytes;
    seen.add(stats.ino);
  }
  return Math.max(leastBytes, stats.size, stats.blocks * 512);
}

function gone(error: unknown): 'gone' | 'unreadable' {
  return codeOf(error) === 'ENOENT' ? 'gone' : 'unreadable';
}
