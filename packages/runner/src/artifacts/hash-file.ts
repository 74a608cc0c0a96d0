import { createHash, hash } from 'node:crypto';
import {
  closeSync,
  constants,
  fchmodSync,
  fchownSync,
  fstatSync,
  openSync,
  readSync,
} from 'node:fs';
import type { Digest } from '@vaquero/core';

/** What a file holds, and what the file system says of it. */
export interface Hashed {
  readonly digest: Digest;
  readonly sizeBytes: number;
  readonly executable: boolean;
}

const buffer = Buffer.allocUnsafe(1 << 20);
const isRoot = process.getuid?.() === 0;

/**
 * Hashes a regular file through one descriptor; a link is not followed. Where it is sealed, owner and mode change
 * first, so that what is hashed can no longer be changed by the uid that wrote it; a blob has no mode of its own.
 * Throws when the bytes read are not as many as the file has.
 */
export function hashFile(path: string, seal: 'sealed' | 'sealed as a blob' | 'as it is'): Hashed {
  const descriptor = openSync(path, constants.O_RDONLY | constants.O_NOFOLLOW);
  try {
    const { size, mode } = fstatSync(descriptor);
    const executable = (mode & 0o100) !== 0;
    if (seal !== 'as it is') {
      if (isRoot) fchownSync(descriptor, 0, 0);
      fchmodSync(descriptor, executable && seal === 'sealed' ? 0o555 : 0o444);
    }
    const { digest, read } =
      size < buffer.length ? hashOnce(descriptor) : hashInPieces(descriptor, size);
    if (read !== size) throw new Error(`${path} changed while it was read`);
    return { digest: digest as Digest, sizeBytes: size, executable };
  } finally {
    closeSync(descriptor);
  }
}

interface Read {
  readonly digest: string;
  /** Bytes that were there: as many as the file's size, unless it changed. */
  readonly read: number;
}

/** Most files are small: one read and one call, which takes half as long as a hash object that is fed. */
function hashOnce(descriptor: number): Read {
  const read = readSync(descriptor, buffer, 0, buffer.length, null);
  return { digest: hash('sha256', buffer.subarray(0, read), 'hex'), read };
}

function hashInPieces(descriptor: number, size: number): Read {
  const pieces = createHash('sha256');
  let read = 0;
  // A file that ends before its size shows at the next read; one that grew shows in the sum.
  for (let count = -1; count !== 0; ) {
    count = readSync(descriptor, buffer, 0, buffer.length, null);
    pieces.update(count === buffer.length ? buffer : buffer.subarray(0, count));
    read += count;
    if (read === size && count < buffer.length) break;
  }
  return { digest: pieces.digest('hex'), read };
}
