import { createHash } from 'node:crypto';
import { chmodSync, lchownSync, readdirSync, readlinkSync } from 'node:fs';
import { join } from 'node:path';
import type { Digest } from '@vaquero/core';
import type { Hashed } from '../artifacts/hash-file.ts';

/** A file of a sealed output. */
export interface SealedFile {
  readonly path: string;
  readonly digest: Digest;
  readonly sizeBytes: number;
  readonly executable: boolean;
}

/** What a folder holds once nothing can change it any more; `digest` names names, modes, bytes and links. */
export interface Sealed {
  readonly digest: Digest;
  readonly files: readonly SealedFile[];
  readonly bytes: number;
  /** Whether it holds nothing but folders and files, so that its list says all of it. */
  readonly plain: boolean;
}

/** What stands in a folder, parents first and names in order. */
export type Entry =
  | { readonly kind: 'folder' | 'file' | 'other'; readonly path: string }
  | { readonly kind: 'link'; readonly path: string; readonly target: string };

const isRoot = process.getuid?.() === 0;

/**
 * Takes the folders of an output away from the uid that wrote them, and lists what they hold. The command
 * that wrote it, and all it started, has ended.
 */
export function takeFolders(root: string, mode: FolderMode): readonly Entry[] {
  const entries: Entry[] = [];
  takeFolder(root, '', mode, entries);
  return entries;
}

/**
 * Folders of an output that is only ever seen below a layer take what anybody writes: the layer has their modes, and takes
 * it instead of them. Where nothing lies over them they are closed.
 */
export type FolderMode = 0o777 | 0o755;

/** The system opens paths of 4,095 bytes; what lies before it is the runner's own. */
const longestPath = 1000;
/** The packages of the largest projects are a fifth of that; beyond it the list alone would fill the memory. */
const mostEntries = 1_000_000;

function takeFolder(folder: string, at: string, mode: FolderMode, entries: Entry[]): void {
  if (isRoot) lchownSync(folder, 0, 0);
  chmodSync(folder, mode);
  const here = readdirSync(folder, { withFileTypes: true });
  for (const entry of here.sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const inner = join(folder, entry.name);
    const path = at === '' ? entry.name : `${at}/${entry.name}`;
    if (entries.length >= mostEntries)
      throw new Error(`the output of a step holds over ${mostEntries} files and folders`);
    if (path.length > longestPath)
      throw new Error(
        `the output has a path of over ${longestPath} characters, which no program could open: ${path.slice(0, 60)}…`,
      );
    if (entry.isDirectory()) {
      entries.push({ kind: 'folder', path });
      takeFolder(inner, path, mode, entries);
    } else if (entry.isSymbolicLink()) {
      entries.push({ kind: 'link', path, target: readlinkSync(inner) });
    } else {
      entries.push({ kind: entry.isFile() ? 'file' : 'other', path });
    }
  }
}

/** Names what a folder holds; `hashed` has one element for each file of it, in their order. */
export function sealedOf(entries: readonly Entry[], hashed: readonly Hashed[]): Sealed {
  const files: SealedFile[] = [];
  const hash = createHash('sha256');
  let bytes = 0;
  let plain = true;
  for (const entry of entries) {
    if (entry.kind === 'folder') hash.update(`d ${entry.path}\0`);
    if (entry.kind === 'link') hash.update(`l ${entry.path}\0${entry.target}\0`);
    plain &&= entry.kind === 'folder' || entry.kind === 'file';
    const one = entry.kind === 'file' ? hashed[files.length] : undefined;
    if (one === undefined) continue;
    const { digest, sizeBytes, executable } = one;
    files.push({ path: entry.path, digest, sizeBytes, executable });
    hash.update(`${executable ? 'x' : 'f'} ${entry.path}\0${digest}\0`);
    bytes += sizeBytes;
  }
  return { digest: hash.digest('hex') as Digest, files, bytes, plain };
}
