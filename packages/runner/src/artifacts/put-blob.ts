import { randomUUID } from 'node:crypto';
import {
  chmodSync,
  constants,
  copyFileSync,
  linkSync,
  lstatSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs';
import { join } from 'node:path';
import type { Digest } from '@vaquero/core';
import type { StoredFile } from './store-files.ts';

/** A file that nobody can change any more, and whose digest is known. */
export interface KnownFile extends StoredFile {
  readonly source: string;
}

/** Where a blob lies in a store. */
export function blobAt(directory: string, digest: Digest): string {
  return join(directory, 'sha256', digest.slice(0, 2), digest);
}

/** Gives bytes that can no longer change a name in the store. */
export function putBlob(taken: string, blob: string, sizeBytes: number, fresh: string[]): void {
  try {
    linkSync(taken, blob);
    fresh.push(blob);
  } catch (error) {
    if (isCode(error, 'EXDEV')) copyIn(taken, blob, fresh);
    else if (isCode(error, 'EEXIST')) replaceDamaged(taken, blob, sizeBytes);
    else throw error;
  }
}

/** A store on another file system than the build takes a copy; its name comes last, so that it is whole. */
function copyIn(taken: string, blob: string, fresh: string[]): void {
  const temporary = `${blob}.${randomUUID()}`;
  try {
    copyFileSync(taken, temporary, constants.COPYFILE_EXCL);
    chmodSync(temporary, 0o444);
    renameSync(temporary, blob);
    fresh.push(blob);
  } finally {
    rmSync(temporary, { force: true });
  }
}

/** A blob that is there has the bytes of its name, unless a crash cut it short: then this one takes its place. */
function replaceDamaged(taken: string, blob: string, sizeBytes: number): void {
  if (lstatSync(blob).size === sizeBytes) return;
  const temporary = `${blob}.${randomUUID()}`;
  linkSync(taken, temporary);
  renameSync(temporary, blob);
}

function isCode(error: unknown, code: string): boolean {
  return error instanceof Error && 'code' in error && error.code === code;
}

/** Gives a sealed file a second name in the store; nothing is read, and one that is there is left alone. */
export function linkKnown(
  directory: string,
  { source, ...file }: KnownFile,
  fresh: string[],
): StoredFile {
  const blob = blobAt(directory, file.digest);
  const kept = statSync(blob, { throwIfNoEntry: false });
  if (kept?.size !== file.sizeBytes) putBlob(source, blob, file.sizeBytes, fresh);
  return file;
}
