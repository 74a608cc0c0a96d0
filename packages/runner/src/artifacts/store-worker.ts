import { createHash, randomUUID } from 'node:crypto';
import {
  chmodSync,
  chownSync,
  closeSync,
  constants,
  copyFileSync,
  fstatSync,
  linkSync,
  lstatSync,
  openSync,
  readSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs';
import { join } from 'node:path';
import { parentPort } from 'node:worker_threads';
import type { Digest } from '@vaquero/core';
import { type Sealed, sealFolder } from '../outputs/seal-folder.ts';
import type { StoredFile } from './store-files.ts';
import type { OutputFile } from './walk-output.ts';

/** Files to store, files of sealed outputs to link under the digests they have, or a folder to seal. */
export type StoreTask =
  | { readonly directory: string; readonly files: readonly OutputFile[] }
  | { readonly directory: string; readonly sealed: readonly KnownFile[] }
  | { readonly seal: string };
export type StoreReply =
  | {
      readonly files: readonly StoredFile[] /** Blobs that were not there before. */;
      readonly fresh: readonly string[];
    }
  | { readonly sealed: Sealed }
  | { readonly failure: string };

/** A file that nobody can change any more, and whose digest is known. */
export interface KnownFile extends StoredFile {
  readonly source: string;
}

const buffer = Buffer.allocUnsafe(1 << 20);
const isRoot = process.getuid?.() === 0;

/**
 * Stores one file. The build's own inode is taken into the store by a link when it has one name only and
 * then belongs to us, read-only; with a second name, which a build could have kept, the bytes are copied.
 * Owner and mode change first, then the bytes are hashed: what is hashed can no longer be changed.
 */
function storeFile(directory: string, file: OutputFile, fresh: string[]): StoredFile {
  const own = lstatSync(file.source).nlink === 1;
  const taken = own ? file.source : join(directory, `copy.${randomUUID()}`);
  try {
    if (own && isRoot) chownSync(taken, 0, 0);
    if (!own) copyFileSync(file.source, taken, constants.COPYFILE_EXCL);
    chmodSync(taken, 0o444);
    const { digest, sizeBytes } = hashFile(taken);
    const blob = join(directory, 'sha256', digest.slice(0, 2), digest);
    try {
      if (own) linkSync(taken, blob);
      else renameSync(taken, blob);
      fresh.push(blob);
    } catch (error) {
      if (!isCode(error, 'EEXIST')) throw error;
      replaceDamaged(taken, blob, sizeBytes);
    }
    return { path: file.path, digest, sizeBytes, mode: file.executable ? 0o755 : 0o644 };
  } finally {
    if (!own) rmSync(taken, { force: true });
  }
}

/** A blob that is there has the bytes of its name, unless a crash cut it short: then this one takes its place. */
function replaceDamaged(taken: string, blob: string, sizeBytes: number): void {
  if (lstatSync(blob).size === sizeBytes) return;
  const temporary = `${blob}.${randomUUID()}`;
  linkSync(taken, temporary);
  renameSync(temporary, blob);
}

function hashFile(path: string): { digest: Digest; sizeBytes: number } {
  const descriptor = openSync(path, constants.O_RDONLY | constants.O_NOFOLLOW);
  try {
    const { size } = fstatSync(descriptor);
    const hash = createHash('sha256');
    let read = 0;
    for (
      let count = readSync(descriptor, buffer);
      count > 0;
      count = readSync(descriptor, buffer)
    ) {
      hash.update(buffer.subarray(0, count));
      read += count;
    }
    if (read !== size) throw new Error(`${path} changed while it was read`);
    return { digest: hash.digest('hex') as Digest, sizeBytes: size };
  } finally {
    closeSync(descriptor);
  }
}

function isCode(error: unknown, code: string): boolean {
  return error instanceof Error && 'code' in error && error.code === code;
}

/** Gives a sealed file a second name in the store; nothing is read, and one that is there is left alone. */
function linkKnown(directory: string, { source, ...file }: KnownFile, fresh: string[]): StoredFile {
  const blob = join(directory, 'sha256', file.digest.slice(0, 2), file.digest);
  const kept = statSync(blob, { throwIfNoEntry: false });
  if (kept === undefined) {
    linkSync(source, blob);
    fresh.push(blob);
  }
  if (kept !== undefined && kept.size !== file.sizeBytes)
    replaceDamaged(source, blob, file.sizeBytes);
  return file;
}

function carryOut(task: StoreTask): StoreReply {
  if ('seal' in task) return { sealed: sealFolder(task.seal) };
  const fresh: string[] = [];
  const files =
    'sealed' in task
      ? task.sealed.map((file) => linkKnown(task.directory, file, fresh))
      : task.files.map((file) => storeFile(task.directory, file, fresh));
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
