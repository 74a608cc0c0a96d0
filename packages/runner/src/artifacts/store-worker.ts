import { randomUUID } from 'node:crypto';
import {
  chmodSync,
  chownSync,
  constants,
  copyFileSync,
  lstatSync,
  rmSync,
  statSync,
} from 'node:fs';
import { join } from 'node:path';
import { parentPort } from 'node:worker_threads';
import type { Digest } from '@vaquero/core';
import { type Entry, takeFolders } from '../outputs/seal-folder.ts';
import { type Hashed, hashFile } from './hash-file.ts';
import { blobAt, type KnownFile, linkKnown, putBlob } from './put-blob.ts';
import type { StoredFile } from './store-files.ts';
import type { OutputFile } from './walk-output.ts';

/** Files to store, files of sealed outputs to link under the digests they have, a folder to take, or its files to seal. */
export type StoreTask =
  | {
      readonly directory: string;
      readonly files: readonly OutputFile[];
      /** For each file a digest that is in the store, if one is known that it may have. */
      readonly held: readonly (Digest | null)[];
      readonly layer: Layer | null;
    }
  | { readonly directory: string; readonly sealed: readonly KnownFile[] }
  | { readonly take: string }
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

/** A folder that shows another one, that one, and where what was written to the first lies by the same paths. */
export interface Layer {
  readonly shown: string;
  readonly below: string;
  readonly written: string;
}

const isRoot = process.getuid?.() === 0;

/**
 * Stores one file. Most files of a site are those of the site before: bytes that the store has need nothing
 * but to be named. Others come in by a link to the build's own inode when it has one name only, and then
 * belong to us, read-only; with a second name, which a build could have kept, the bytes are copied. What
 * comes in is hashed again after owner and mode have changed: from there on nobody can change it.
 */
function storeFile(
  directory: string,
  file: OutputFile,
  held: Digest | null,
  layer: Layer | null,
  fresh: string[],
): StoredFile {
  const { digest, sizeBytes, names, executable } = hashFile(file.source, 'as it is');
  const mode = executable ? 0o755 : 0o644;
  const isKept =
    digest === held ||
    statSync(blobAt(directory, digest), { throwIfNoEntry: false })?.size === sizeBytes;
  if (isKept) return { path: file.path, digest, sizeBytes, mode };
  const owned = file.stays
    ? null
    : layer === null
      ? namedOnce(file.source, names)
      : writtenAt(file.source, layer);
  const own = owned !== null;
  const taken = owned ?? join(directory, `copy.${randomUUID()}`);
  try {
    if (own && isRoot) chownSync(taken, 0, 0);
    if (!own) copyFileSync(file.source, taken, constants.COPYFILE_EXCL);
    chmodSync(taken, 0o444);
    const sealed = hashFile(taken, 'as it is');
    putBlob(taken, blobAt(directory, sealed.digest), sealed.sizeBytes, fresh);
    return { path: file.path, digest: sealed.digest, sizeBytes: sealed.sizeBytes, mode };
  } finally {
    if (!own) rmSync(taken, { force: true });
  }
}

function namedOnce(path: string, names: number): string | null {
  return names === 1 ? path : null;
}

/** Where a file that a layer shows was written by the build, under one name; null for one that is only shown. */
function writtenAt(path: string, { shown, written }: Layer): string | null {
  const isShown = path.startsWith(`${shown}/`);
  if (!isShown && !path.startsWith(`${written}/`)) return null;
  const own = isShown ? join(written, path.slice(shown.length + 1)) : path;
  const there = lstatSync(own, { throwIfNoEntry: false });
  return there?.isFile() === true ? namedOnce(own, there.nlink) : null;
}

function carryOut(task: StoreTask): StoreReply {
  if ('take' in task) return { entries: takeFolders(task.take) };
  if ('seal' in task) return { hashed: task.seal.map((path) => hashFile(path, 'sealed')) };
  const fresh: string[] = [];
  const files =
    'sealed' in task
      ? task.sealed.map((file) => linkKnown(task.directory, file, fresh))
      : task.files.map((file, place) =>
          storeFile(task.directory, file, task.held[place] ?? null, task.layer, fresh),
        );
  return { files, fresh };
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
