import { closeSync, type Dirent, opendirSync, readdirSync } from 'node:fs';
import { enter, inFolder, openFolder } from './beneath.ts';

/** Folders of packages and of Git: none of what lies there is looked at. */
const passedBy = new Set(['node_modules', '.git']);

/**
 * Paths of all files below a folder, relative to it, at most `most`, among at most twice as many entries. Folder by folder through descriptors: no link is
 * followed, and however deep they lie, no path is too long for the system.
 */
export function listBeneath(root: string, most: number): readonly string[] {
  const paths: string[] = [];
  let seen = 0;
  const walk = (folder: number, at: string): void => {
    for (const entry of entriesOf(folder)) {
      seen += 1;
      if (paths.length >= most || seen > 2 * most) return;
      const path = at === '' ? entry.name : `${at}/${entry.name}`;
      if (entry.isFile()) paths.push(path);
      else if (entry.isDirectory() && isWalked(entry.name, path))
        within(enter(folder, entry.name), (next) => walk(next, path));
    }
  };
  within(openFolder(root), (top) => walk(top, ''));
  return paths;
}

/** Does something with an open folder, and closes it; nothing where there is none. */
function within(folder: ReturnType<typeof enter>, work: (folder: number) => void): void {
  if (typeof folder !== 'number') return;
  try {
    work(folder);
  } finally {
    closeSync(folder);
  }
}

function isWalked(name: string, path: string): boolean {
  return !passedBy.has(name) && path.split('/').length <= deepest;
}

/** Deeper than this nobody looks for a file; each level holds a descriptor. */
const deepest = 200;

/** Names that stand directly in an open folder, at most `most`: whatever a build put there, no more is read. */
export function namesAt(folder: number, most: number): readonly string[] {
  const open = opendirSync(inFolder(folder, '.'));
  const names: string[] = [];
  try {
    for (
      let entry = open.readSync();
      entry !== null && names.length < most;
      entry = open.readSync()
    )
      names.push(entry.name);
  } finally {
    open.closeSync();
  }
  return names;
}

/** What stands directly in an open folder, by kind. */
export function entriesOf(folder: number): readonly Dirent[] {
  return readdirSync(inFolder(folder, '.'), { withFileTypes: true });
}
