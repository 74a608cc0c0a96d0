import {
  chmodSync,
  chownSync,
  closeSync,
  lchownSync,
  mkdirSync,
  rmdirSync,
  symlinkSync,
  unlinkSync,
  writeFileSync,
} from 'node:fs';
import { basename, dirname } from 'node:path';
import type { roleRoutes } from '@vaquero/contracts';
import { codeOf, enter, inFolder, openFolder } from '../descriptors/beneath.ts';
import { entriesOf } from '../descriptors/list-beneath.ts';

/** Paths of all files and links of a tree, each folder entered from the one above. A commit is no deeper than is built. */
export function listTree(root: string): readonly string[] {
  const paths: string[] = [];
  const walk = (folder: number, at: string): void => {
    try {
      for (const entry of entriesOf(folder)) {
        const path = at === '' ? entry.name : `${at}/${entry.name}`;
        const inner = entry.isDirectory() ? enter(folder, entry.name) : null;
        if (typeof inner === 'number') walk(inner, path);
        else paths.push(path);
      }
    } finally {
      closeSync(folder);
    }
  };
  walk(openFolder(root), '');
  return paths;
}

/**
 * Turns a tree into that of another commit; returns its paths. Files are taken away before they are written,
 * so that what a step left open, or under another name, does not change what comes after it. Each folder is entered
 * from the one above by its descriptor, and no link is followed.
 */
export function changeTree(
  root: string,
  paths: readonly string[],
  { written, removed }: roleRoutes.SourceChanges,
  uid: number | null,
): readonly string[] {
  const left = new Set(paths);
  const top = openFolder(root);
  try {
    for (const path of [...removed, ...written.map((one) => one.path)]) {
      if (!left.delete(path)) continue;
      inFolderOf(top, path, null, (folder) => unlinkSync(inFolder(folder, basename(path))));
      removeEmpty(top, dirname(path));
    }
    for (const { path, kind, bytes } of written) {
      const content = Buffer.from(bytes, 'base64');
      inFolderOf(top, path, { uid }, (folder) => {
        const at = inFolder(folder, basename(path));
        if (kind === 'link') symlinkSync(content.toString(), at);
        else
          writeFileSync(at, content, { flag: 'wx', mode: kind === 'executable' ? 0o755 : 0o644 });
        if (uid !== null) lchownSync(at, uid, uid);
      });
      left.add(path);
    }
  } finally {
    closeSync(top);
  }
  return [...left];
}

/** Git knows no empty folder: one whose last file goes, goes with it. */
function removeEmpty(top: number, folder: string): void {
  for (let at = folder; at !== '.'; at = dirname(at)) {
    try {
      inFolderOf(top, at, null, (above) => rmdirSync(inFolder(above, basename(at))));
    } catch (error) {
      if (codeOf(error) === 'ENOTEMPTY') return;
      throw error;
    }
  }
}

/** Does something in the folder that a path lies in; with `made` folders that are not there are made, for a uid. */
function inFolderOf(
  top: number,
  path: string,
  made: { readonly uid: number | null } | null,
  work: (folder: number) => void,
): void {
  const parts = dirname(path).split('/');
  let folder = top;
  try {
    for (const [place, part] of parts.entries()) {
      if (part === '.') continue;
      const next = enterOrMake(folder, part, made);
      // A link in a folder's place would lead what is written out of the tree.
      if (next === null)
        throw new Error(`${parts.slice(0, place + 1).join('/')} is no folder in this tree`);
      if (folder !== top) closeSync(folder);
      folder = next;
    }
    work(folder);
  } finally {
    if (folder !== top) closeSync(folder);
  }
}

function enterOrMake(
  folder: number,
  name: string,
  made: { readonly uid: number | null } | null,
): number | null {
  const there = enter(folder, name);
  if (typeof there === 'number') return there;
  if (there === 'link' || made === null) return null;
  mkdirSync(inFolder(folder, name));
  const fresh = enter(folder, name);
  if (typeof fresh !== 'number') return null;
  // By the folder that was opened, whatever its name stands for by now.
  chmodSync(inFolder(fresh, '.'), 0o755);
  if (made.uid !== null) chownSync(inFolder(fresh, '.'), made.uid, made.uid);
  return fresh;
}
