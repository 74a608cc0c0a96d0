import { createHash, randomUUID } from 'node:crypto';
import {
  closeSync,
  createWriteStream,
  fsync,
  mkdirSync,
  openSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { promisify } from 'node:util';
import type { Digest } from '@vaquero/core';

/** The store that the roles of one machine share. */
export function storeOf(stateDirectory: string): string {
  return join(stateDirectory, 'store');
}

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

/** Bytes that came under another name than theirs, or more of them than may be. */
export class WrongBytes extends Error {
  override readonly name = 'WrongBytes';
}

/**
 * Stores a stream under the digest it must have, the same way as bytes at hand. Throws WrongBytes when it
 * has another, or is longer than `limitBytes`; nothing of it is kept then.
 */
export async function storeStream(
  store: string,
  from: Readable,
  digest: Digest,
  limitBytes: number,
): Promise<void> {
  const path = blobPath(store, digest);
  await mkdir(dirname(path), { recursive: true });
  const temporary = `${path}.${randomUUID()}`;
  const hash = createHash('sha256');
  let size = 0;
  const checked = async function* (chunks: AsyncIterable<Buffer>): AsyncGenerator<Buffer> {
    for await (const chunk of chunks) {
      size += chunk.length;
      if (size > limitBytes) throw new WrongBytes(`is over ${limitBytes} bytes`);
      hash.update(chunk);
      yield chunk;
    }
  };
  try {
    await pipeline(
      from,
      checked,
      createWriteStream(temporary, { flags: 'wx', mode: 0o444, flush: true }),
    );
    const real = hash.digest('hex');
    if (real !== digest) throw new WrongBytes(`has the digest ${real}`);
    await rename(temporary, path);
  } catch (error) {
    await rm(temporary, { force: true });
    throw error;
  }
}

const syncOf = promisify(fsync);

/** Stores bytes under their digest: temporary name, sync, then a rename that gives others all or nothing. */
export async function storeBytes(
  store: string,
  bytes: Buffer,
  digest = digestOf(bytes),
): Promise<Digest> {
  const path = blobPath(store, digest);
  mkdirSync(dirname(path), { recursive: true });
  // Two builds with one result can store it in the same instant.
  const temporary = `${path}.${randomUUID()}`;
  // Only the sync waits for the disk; a promise for each of the others would take longer than they do.
  const descriptor = openSync(temporary, 'wx', 0o444);
  try {
    try {
      writeFileSync(descriptor, bytes);
      await syncOf(descriptor);
    } finally {
      closeSync(descriptor);
    }
    renameSync(temporary, path);
  } catch (error) {
    rmSync(temporary, { force: true });
    throw error;
  }
  return digest;
}
