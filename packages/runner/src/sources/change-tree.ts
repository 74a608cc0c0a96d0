import {
  chmodSync,
  chownSync,
  lchownSync,
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

/**
 * Turns a tree into that of another commit; returns its paths. Files are taken away before they are written,
 * so that what a step left open, or under another name, does not change what comes after it.
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
