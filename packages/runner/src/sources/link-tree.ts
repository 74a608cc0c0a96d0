import {
  chmodSync,
  chownSync,
  lchownSync,
  linkSync,
  lstatSync,
  mkdirSync,
  readdirSync,
  rmdirSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import type { roleRoutes } from '@vaquero/contracts';

/** A tree to be made anew from one that is there: the same files by further names of their inodes. */
export interface LinkTask {
  readonly from: string;
  readonly to: string;
  /** Paths of the files and links, relative to the tree. */
  readonly paths: readonly string[];
  /** Who owns its folders; null for the runner itself. */
  readonly uid: number | null;
}

/** Paths of all files and links of a tree. */
export function listTree(root: string): readonly string[] {
  const paths: string[] = [];
  const open = [''];
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    for (const entry of readdirSync(join(root, at), { withFileTypes: true })) {
      const path = at === '' ? entry.name : `${at}/${entry.name}`;
      if (entry.isDirectory()) open.push(path);
      else paths.push(path);
    }
  }
  return paths;
}

/** Makes the tree; no byte is read or written, and no inode of a file is made. */
export function linkTree({ from, to, paths, uid }: LinkTask): void {
  const made = new Set<string>();
  makeFolder(to, uid);
  for (const path of paths) {
    makeFolders(to, dirname(path), uid, made);
    linkSync(join(from, path), join(to, path));
  }
}

/**
 * Turns a linked tree into that of another commit; returns its paths. Files are taken away before they are
 * written, so that no inode that another tree shares is changed.
 */
export function changeTree(
  root: string,
  paths: readonly string[],
  { written, removed }: roleRoutes.SourceChanges,
  uid: number | null,
): readonly string[] {
  const left = new Set(paths);
  for (const path of [...removed, ...written.map((one) => one.path)]) {
    if (!left.delete(path)) continue;
    rmSync(join(root, path));
    removeEmpty(root, dirname(path));
  }
  const made = new Set<string>();
  for (const { path, kind, bytes } of written) {
    makeFolders(root, dirname(path), uid, made);
    const at = join(root, path);
    const content = Buffer.from(bytes, 'base64');
    if (kind === 'link') symlinkSync(content.toString(), at);
    else writeFileSync(at, content, { flag: 'wx', mode: kind === 'executable' ? 0o755 : 0o644 });
    if (uid !== null) lchownSync(at, uid, uid);
    left.add(path);
  }
  return [...left];
}

/** Git knows no empty folder: one whose last file goes, goes with it. */
function removeEmpty(root: string, folder: string): void {
  for (let at = folder; at !== '.'; at = dirname(at)) {
    try {
      rmdirSync(join(root, at));
    } catch (error) {
      if (error instanceof Error && 'code' in error && error.code === 'ENOTEMPTY') return;
      throw error;
    }
  }
}

function makeFolders(root: string, folder: string, uid: number | null, made: Set<string>): void {
  if (folder === '.' || made.has(folder)) return;
  makeFolders(root, dirname(folder), uid, made);
  made.add(folder);
  const at = join(root, folder);
  const there = lstatSync(at, { throwIfNoEntry: false });
  if (there === undefined) makeFolder(at, uid);
  // A link in a folder's place would lead what is written out of the tree.
  else if (!there.isDirectory()) throw new Error(`${folder} is no folder in this tree`);
}

function makeFolder(at: string, uid: number | null): void {
  mkdirSync(at);
  chmodSync(at, 0o755);
  if (uid !== null) chownSync(at, uid, uid);
}
