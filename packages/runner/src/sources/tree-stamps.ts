import { randomUUID } from 'node:crypto';
import {
  chmodSync,
  chownSync,
  lstatSync,
  mkdirSync,
  readFileSync,
  readlinkSync,
  renameSync,
  type Stats,
} from 'node:fs';
import { basename, dirname } from 'node:path';
import { setImmediate as breathe } from 'node:timers/promises';
import type { roleRoutes } from '@vaquero/contracts';
import { type Reach, reachBelow } from '../descriptors/reach.ts';

/** What the file system says of a tree that nobody has written to since: by it, what was written to is told. */
export interface TreeStamps {
  readonly files: Map<string, Stamp>;
  /** Folders by their paths; that of the tree itself is empty. */
  readonly folders: Map<string, Stamp>;
  /** Contents of what was written last, for which a stamp of the same instant tells nothing. */
  readonly fresh: ReadonlyMap<string, Buffer>;
}

/** A change of bytes, size, mode, owner or number of names shows in the time of change, which no program can set back. */
interface Stamp {
  readonly inode: number;
  readonly changedAt: number;
  readonly mode: number;
}

/** Times of change are as coarse as the kernel's ticks: within this of a beginning they tell nothing. */
export const coarseMs = 20;
/** So many entries are looked at before other work gets its turn. */
const atOnce = 2000;

/** Stamps a tree as it stands. */
export async function stampTree(root: string, paths: readonly string[]): Promise<TreeStamps> {
  const files = new Map<string, Stamp>();
  const folders = new Map<string, Stamp>();
  const tree = reachBelow(root);
  try {
    for (const [place, path] of paths.entries()) {
      files.set(path, stampOf(tree.must(path)));
      for (const folder of foldersAbove(path)) {
        if (folders.has(folder)) break;
        folders.set(folder, stampOf(tree.must(folder)));
      }
      if (place % atOnce === atOnce - 1) await breathe();
    }
    if (!folders.has('')) folders.set('', stampOf(tree.must('')));
    return { files, folders, fresh: new Map() };
  } finally {
    tree.close();
  }
}

/** The stamps of a tree after it was changed so. */
export function stampChanges(
  root: string,
  { files, folders }: TreeStamps,
  { written, removed }: roleRoutes.SourceChanges,
): TreeStamps {
  const tree = reachBelow(root);
  try {
    for (const path of removed) files.delete(path);
    for (const { path } of written) files.set(path, stampOf(tree.must(path)));
    const changed = [...removed, ...written.map((one) => one.path)];
    stampFolders(tree, folders, changed.flatMap(foldersAbove));
  } finally {
    tree.close();
  }
  const fresh = new Map(written.map(({ path, bytes }) => [path, Buffer.from(bytes, 'base64')]));
  return { files, folders, fresh };
}

/** The newest time of change in a tree whose contents are not known here. */
export function newestOf({ files, fresh }: TreeStamps): number {
  let newest = 0;
  for (const [path, { changedAt }] of files)
    if (!fresh.has(path)) newest = Math.max(newest, changedAt);
  return newest;
}

/** Where leftovers go, and whose the folders are. */
export interface Settling {
  /** Programs could write to the tree from this instant on. */
  readonly since: number;
  readonly uid: number | null;
  /** Takes a folder away with all that is in it. */
  readonly aside: (folder: string) => void;
}

/**
 * Takes from a tree whatever a build left there; null when the build touched what was committed, so that the
 * tree is to be fetched again. A folder in which something was made or removed is made anew of its committed
 * entries, so that nothing else of it stays: no file, no access list, no attribute.
 */
export async function settleTree(
  root: string,
  stamps: TreeStamps,
  settling: Settling,
): Promise<TreeStamps | null> {
  const tree = reachBelow(root);
  try {
    const renewed = changedFolders(tree, stamps, settling.since);
    if (renewed === null || !(await areAsCommitted(tree, stamps, settling.since))) return null;
    return renewFolders(root, stamps, renewed, settling);
  } finally {
    tree.close();
  }
}

function renewFolders(
  root: string,
  { files, folders }: TreeStamps,
  renewed: readonly string[],
  settling: Settling,
): TreeStamps {
  const inside = entriesBelow(renewed, [...files.keys(), ...folders.keys()]);
  // The deepest first: a folder moves into the new one of its parent when it is new itself.
  for (const folder of renewed.toSorted((a, b) => depthOf(b) - depthOf(a)))
    renewFolder(root, folder, inside.get(folder) ?? [], folders.get(folder)?.mode, settling);
  const tree = reachBelow(root);
  try {
    for (const folder of renewed) {
      for (const path of inside.get(folder) ?? [])
        (files.has(path) ? files : folders).set(path, stampOf(tree.must(path)));
      stampFolders(tree, folders, folder === '' ? [''] : [folder, ...foldersAbove(folder)]);
    }
  } finally {
    tree.close();
  }
  return { files, folders, fresh: new Map() };
}

/** Whether every committed file is there and was not written to. */
async function areAsCommitted(
  tree: Reach,
  { files, fresh }: TreeStamps,
  since: number,
): Promise<boolean> {
  let place = 0;
  for (const [path, stamp] of files) {
    place += 1;
    if (place % atOnce === 0) await breathe();
    const at = tree.to(path);
    const now = at === null ? undefined : lstatSync(at, { throwIfNoEntry: false });
    if (at === null || now === undefined || !isSame(now, stamp)) return false;
    const isSuspect = now.ctimeMs > since - coarseMs;
    if (isSuspect && !holds(at, now, fresh.get(path))) return false;
  }
  return true;
}

/** Folders in which something changed; null when one is not there any more, or is another. */
function changedFolders(
  tree: Reach,
  { folders }: TreeStamps,
  since: number,
): readonly string[] | null {
  const changed: string[] = [];
  for (const [path, stamp] of folders) {
    const at = tree.to(path);
    const now = at === null ? undefined : lstatSync(at, { throwIfNoEntry: false });
    if (now?.isDirectory() !== true || now.ino !== stamp.inode) return null;
    const isUntouched = now.ctimeMs === stamp.changedAt && now.ctimeMs <= since - coarseMs;
    if (!isUntouched) changed.push(path);
  }
  return changed;
}

/** Puts a new folder with the committed entries of another one in its place. What is moved is reached from descriptors. */
function renewFolder(
  root: string,
  folder: string,
  inside: readonly string[],
  mode = 0o755,
  { uid, aside }: Settling,
): void {
  const made = `${root}.${randomUUID()}`;
  mkdirSync(made);
  chmodSync(made, mode & 0o7777);
  if (uid !== null) chownSync(made, uid, uid);
  const tree = reachBelow(root);
  try {
    for (const path of inside) renameSync(tree.must(path), `${made}/${basename(path)}`);
    // The tree itself is ours by its path; what lies in it is reached.
    const old = folder === '' ? root : tree.must(folder);
    aside(old);
    renameSync(made, old);
  } finally {
    tree.close();
  }
}

/** The committed entries directly in each of some folders. */
function entriesBelow(
  folders: readonly string[],
  paths: readonly string[],
): ReadonlyMap<string, readonly string[]> {
  const inside = new Map<string, string[]>(folders.map((folder) => [folder, []]));
  for (const path of paths) if (path !== '') inside.get(parentOf(path))?.push(path);
  return inside;
}

function stampFolders(tree: Reach, folders: Map<string, Stamp>, changed: readonly string[]): void {
  for (const folder of new Set(changed)) {
    const at = tree.to(folder);
    const now = at === null ? undefined : lstatSync(at, { throwIfNoEntry: false });
    if (now?.isDirectory() === true) folders.set(folder, stampFrom(now));
    else folders.delete(folder);
  }
}

/** The folders that a path lies in, the nearest first and the tree itself last. */
function foldersAbove(path: string): readonly string[] {
  const above: string[] = [];
  for (let at = parentOf(path); ; at = parentOf(at)) {
    above.push(at);
    if (at === '') return above;
  }
}

function parentOf(path: string): string {
  const parent = dirname(path);
  return parent === '.' ? '' : parent;
}

function depthOf(path: string): number {
  return path === '' ? 0 : path.split('/').length;
}

function stampOf(path: string): Stamp {
  return stampFrom(lstatSync(path));
}

function stampFrom({ ino, ctimeMs, mode }: Stats): Stamp {
  return { inode: ino, changedAt: ctimeMs, mode };
}

function isSame(now: Stats, stamp: Stamp): boolean {
  return now.ino === stamp.inode && now.ctimeMs === stamp.changedAt && now.mode === stamp.mode;
}

function holds(path: string, now: Stats, content: Buffer | undefined): boolean {
  if (content === undefined || now.nlink !== 1) return false;
  return now.isSymbolicLink()
    ? readlinkSync(path) === content.toString()
    : now.isFile() && readFileSync(path).equals(content);
}
