import { randomUUID } from 'node:crypto';
import { closeSync, constants, copyFileSync, lstatSync, openSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { parentPort } from 'node:worker_threads';
import type { Digest } from '@vaquero/core';
import { type Reach, reachBelow } from '../descriptors/reach.ts';
import { type Entry, type FolderMode, takeFolders } from '../outputs/seal-folder.ts';
import type { Layer } from '../sources/layered.ts';
import { type Hashed, hashFile } from './hash-file.ts';
import { blobAt, type KnownFile, linkKnown, putBlob } from './put-blob.ts';
import type { StoredFile } from './store-files.ts';
import type { OutputFile } from './walk-output.ts';

/** Files to store, files of sealed outputs to link under the digests they have, a folder to take, or its files to seal. */
export type StoreTask =
  | {
      readonly directory: string;
      /** The folder below which the files lie. */
      readonly root: string;
      readonly files: readonly OutputFile[];
      /** For each file a digest that is in the store, if one is known that it may have. */
      readonly held: readonly (Digest | null)[];
      readonly layer: Layer | null;
    }
  | { readonly directory: string; readonly sealed: readonly KnownFile[] }
  | { readonly take: string; readonly mode: FolderMode }
  | { readonly seal: readonly string[] };
export type StoreReply =
  | {
      readonly files: readonly StoredFile[];
      /** Blobs that were not there before. */
      readonly fresh: readonly string[];
    }
  | { readonly entries: readonly Entry[] }
  | { readonly hashed: readonly Hashed[] }
  | { readonly failure: string };

/** What files are stored into, and from where. */
interface Storing {
  readonly directory: string;
  readonly files: Reach;
  /** Where the build itself wrote what it could take away: its tree, or what lies over one. Null where nothing is its own. */
  readonly own: Reach | null;
  readonly fresh: string[];
}

/**
 * Stores one file, reached from its folder's descriptor. Most files of a site are those of the site before: bytes that the store has
 * need nothing but to be named. Others come in by a link to the build's own inode when it has one name only, and then
 * belong to us, read-only; with a second name, which a build could have kept, the bytes are copied. What
 * comes in is hashed again after owner and mode have changed: from there on nobody can change it.
 */
function storeFile(storing: Storing, file: OutputFile, held: Digest | null): StoredFile {
  const { directory, fresh } = storing;
  const from = storing.files.must(file.source);
  const { digest, sizeBytes, executable } = hashFile(from, 'as it is');
  const mode = executable ? 0o755 : 0o644;
  const isKept =
    digest === held ||
    statSync(blobAt(directory, digest), { throwIfNoEntry: false })?.size === sizeBytes;
  if (isKept) return { path: file.path, digest, sizeBytes, mode };
  const own = file.stays ? null : namedOnce(storing.own?.to(file.source) ?? null);
  const taken = own ?? join(directory, `copy.${randomUUID()}`);
  try {
    if (own === null) copyOf(from, taken);
    const sealed = hashFile(taken, 'sealed as a blob');
    putBlob(taken, blobAt(directory, sealed.digest), sealed.sizeBytes, fresh);
    return { path: file.path, digest: sealed.digest, sizeBytes: sealed.sizeBytes, mode };
  } finally {
    if (own === null) rmSync(taken, { force: true });
  }
}

/** A file under one name; null for one that has others, or that a layer only shows. */
function namedOnce(path: string | null): string | null {
  const there = path === null ? undefined : lstatSync(path, { throwIfNoEntry: false });
  return there?.isFile() === true && there.nlink === 1 ? path : null;
}

/** Copies the bytes of the very file that is opened, which is no link. */
function copyOf(path: string, to: string): void {
  const descriptor = openSync(path, constants.O_RDONLY | constants.O_NOFOLLOW);
  try {
    copyFileSync(`/proc/self/fd/${descriptor}`, to, constants.COPYFILE_EXCL);
  } finally {
    closeSync(descriptor);
  }
}

/** Below which folder the build's own files lie by the paths of another. */
function ownRoot(root: string, layer: Layer | null): string | null {
  if (layer === null || root === layer.written) return root;
  return root === layer.shown ? layer.written : null;
}

function storeAll(task: Extract<StoreTask, { files: readonly OutputFile[] }>): StoreReply {
  const { directory, root, layer } = task;
  const ownAt = ownRoot(root, layer);
  const files = reachBelow(root);
  const own = ownAt === null || ownAt === root ? null : reachBelow(ownAt);
  const storing = { directory, files, own: ownAt === root ? files : own, fresh: [] };
  try {
    return {
      files: task.files.map((file, place) => storeFile(storing, file, task.held[place] ?? null)),
      fresh: storing.fresh,
    };
  } finally {
    files.close();
    own?.close();
  }
}

function carryOut(task: StoreTask): StoreReply {
  if ('take' in task) return { entries: takeFolders(task.take, task.mode) };
  if ('seal' in task) return { hashed: task.seal.map((path) => hashFile(path, 'sealed')) };
  if ('files' in task) return storeAll(task);
  const fresh: string[] = [];
  return { files: task.sealed.map((file) => linkKnown(task.directory, file, fresh)), fresh };
}

parentPort?.on('message', (task: StoreTask) => {
  try {
    parentPort?.postMessage(carryOut(task));
  } catch (error) {
    parentPort?.postMessage({
      failure: error instanceof Error ? error.message : String(error),
    } satisfies StoreReply);
  }
});
