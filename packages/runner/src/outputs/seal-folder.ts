import { createHash, type Hash } from 'node:crypto';
import {
  chmodSync,
  closeSync,
  constants,
  fstatSync,
  lchownSync,
  openSync,
  readdirSync,
  readlinkSync,
  readSync,
} from 'node:fs';
import { join } from 'node:path';
import type { Digest } from '@vaquero/core';

/** A file of a sealed output. */
export interface SealedFile {
  readonly path: string;
  readonly digest: Digest;
  readonly sizeBytes: number;
}

/** What a folder holds once nothing can change it any more; `digest` names names, modes, bytes and links. */
export interface Sealed {
  readonly digest: Digest;
  readonly files: readonly SealedFile[];
  readonly bytes: number;
}

const buffer = Buffer.allocUnsafe(1 << 20);
const isRoot = process.getuid?.() === 0;

/**
 * Seals a folder after everything that wrote it has ended: each entry becomes ours and read-only, then it
 * is read, so that what was hashed cannot change. Sockets, pipes and devices are left out of it.
 */
export function sealFolder(root: string): Sealed {
  const files: SealedFile[] = [];
  const hash = createHash('sha256');
  walk(root, '', files, hash);
  const bytes = files.reduce((sum, file) => sum + file.sizeBytes, 0);
  return { digest: hash.digest('hex') as Digest, files, bytes };
}

function walk(folder: string, at: string, files: SealedFile[], hash: Hash): void {
  if (isRoot) lchownSync(folder, 0, 0);
  chmodSync(folder, 0o755);
  const entries = readdirSync(folder, { withFileTypes: true });
  for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const path = join(folder, entry.name);
    const name = at === '' ? entry.name : `${at}/${entry.name}`;
    if (entry.isDirectory()) {
      hash.update(`d ${name}\0`);
      walk(path, name, files, hash);
    } else if (entry.isSymbolicLink()) {
      hash.update(`l ${name}\0${readlinkSync(path)}\0`);
    } else if (entry.isFile()) {
      const { digest, sizeBytes, executable } = sealFile(path);
      files.push({ path: name, digest, sizeBytes });
      hash.update(`${executable ? 'x' : 'f'} ${name}\0${digest}\0`);
    }
  }
}

function sealFile(path: string): { digest: Digest; sizeBytes: number; executable: boolean } {
  const descriptor = openSync(path, constants.O_RDONLY | constants.O_NOFOLLOW);
  try {
    const { mode, size } = fstatSync(descriptor);
    const executable = (mode & 0o100) !== 0;
    if (isRoot) lchownSync(path, 0, 0);
    chmodSync(path, executable ? 0o555 : 0o444);
    const hash = createHash('sha256');
    for (let count = readSync(descriptor, buffer); count > 0; count = readSync(descriptor, buffer))
      hash.update(buffer.subarray(0, count));
    return { digest: hash.digest('hex') as Digest, sizeBytes: size, executable };
  } finally {
    closeSync(descriptor);
  }
}
