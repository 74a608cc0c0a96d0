import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Digest } from '@vaquero/core';

/** A blob that is not there, or whose bytes are not those of its name. */
export class BlobDamaged extends Error {
  override readonly name = 'BlobDamaged';
}

/** Where a blob lies in the store that the roles of this machine share. */
export function blobPath(store: string, digest: Digest): string {
  return join(store, 'sha256', digest.slice(0, 2), digest);
}

/** Reads a blob and verifies it. Throws BlobDamaged. */
export async function readVerified(store: string, digest: Digest): Promise<Buffer> {
  const bytes = await readFile(blobPath(store, digest)).catch((cause: unknown) => {
    throw new BlobDamaged(`blob ${digest} cannot be read`, { cause });
  });
  return verify(bytes, digest);
}

/** The same, without giving way to others: for the few files that a preparation must be sure of. */
export function readVerifiedNow(store: string, digest: Digest): Buffer {
  try {
    return verify(readFileSync(blobPath(store, digest)), digest);
  } catch (cause) {
    throw cause instanceof BlobDamaged
      ? cause
      : new BlobDamaged(`blob ${digest} cannot be read`, { cause });
  }
}

function verify(bytes: Buffer, digest: Digest): Buffer {
  if (createHash('sha256').update(bytes).digest('hex') !== digest)
    throw new BlobDamaged(`blob ${digest} holds other bytes than its name says`);
  return bytes;
}
