import { createHash } from 'node:crypto';
import { statSync } from 'node:fs';
import { mkdir, open, rename, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Digest } from '@vaquero/core';

/** Where a blob lies: two folder letters keep directories small, the name of the scheme lets it change. */
export function blobPath(store: string, digest: string): string {
  return join(store, 'sha256', digest.slice(0, 2), digest);
}

/** The size of a stored blob; undefined when it is not there. Synchronous: 2,000 of these take 6 ms, 40 otherwise. */
export function storedSize(store: string, digest: Digest): number | undefined {
  return statSync(blobPath(store, digest), { throwIfNoEntry: false })?.size;
}

/** The digest that names some bytes. */
export function digestOf(bytes: Buffer): Digest {
  return createHash('sha256').update(bytes).digest('hex') as Digest;
}

/** Stores bytes under their digest: temporary name, sync, then a rename that gives others all or nothing. */
export async function storeBytes(
  store: string,
  bytes: Buffer,
  digest = digestOf(bytes),
): Promise<Digest> {
  const path = blobPath(store, digest);
  await mkdir(dirname(path), { recursive: true });
  const temporary = `${path}.${process.pid}.${Date.now()}`;
  const file = await open(temporary, 'wx', 0o444);
  try {
    await file.writeFile(bytes);
    await file.sync();
    await file.close();
    await rename(temporary, path);
  } catch (error) {
    await rm(temporary, { force: true });
    throw error;
  }
  return digest;
}
