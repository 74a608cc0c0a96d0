import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, readdir, rename, rm, stat, utimes } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { type Digest, readDigest } from '@vaquero/core';
import { unlessGone } from '../base/unless-gone.ts';

/** An output that is kept for other runners. */
export interface SharedOutput {
  readonly path: string;
  readonly bytes: number;
}

/** An archive that grows over its limit while it comes. */
export class OutputTooLarge extends Error {
  override readonly name = 'OutputTooLarge';
}

function folderOf(stateDirectory: string): string {
  return join(stateDirectory, 'shared-outputs');
}

/** An output may take a quarter of the room: one alone must not drive out all others. */
export function largestOf(limitBytes: number): number {
  return Math.floor(limitBytes / 4);
}

/** Finds an output; being asked for keeps it from being the next to go. */
export async function findShared(
  stateDirectory: string,
  digest: Digest,
): Promise<SharedOutput | null> {
  const path = join(folderOf(stateDirectory), digest);
  const found = await stat(path).catch(unlessGone);
  if (found === undefined) return null;
  const now = new Date();
  // A sweep may have taken it since: then it is gone for whoever asked, too.
  await utimes(path, now, now).catch(unlessGone);
  return { path, bytes: found.size };
}

/**
 * Keeps the archive of an output, whole or not at all, and lets those longest unused go. What it holds is not
 * looked into: whoever takes it names what came by its bytes, and uses it only under the same name.
 * Throws OutputTooLarge.
 */
export async function keepShared(
  stateDirectory: string,
  digest: Digest,
  from: Readable,
  limitBytes: number,
): Promise<void> {
  const folder = folderOf(stateDirectory);
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const coming = join(folder, `${digest}.${randomUUID()}`);
  let bytes = 0;
  const counted = async function* (chunks: AsyncIterable<Buffer>): AsyncGenerator<Buffer> {
    for await (const chunk of chunks) {
      bytes += chunk.length;
      if (bytes > largestOf(limitBytes))
        throw new OutputTooLarge(`is over ${largestOf(limitBytes)} bytes`);
      yield chunk;
    }
  };
  try {
    await pipeline(from, counted, createWriteStream(coming, { flags: 'wx', mode: 0o600 }));
    await rename(coming, join(folder, digest));
  } catch (error) {
    await rm(coming, { force: true });
    throw error;
  }
  await sweepShared(stateDirectory, limitBytes);
}

/** Removes the outputs longest unused until the rest is within the limit, and what never came whole. */
async function sweepShared(stateDirectory: string, limitBytes: number): Promise<void> {
  const folder = folderOf(stateDirectory);
  const kept = [];
  for (const name of await readdir(folder)) {
    const found = await stat(join(folder, name)).catch(unlessGone);
    if (found === undefined) continue;
    const isWhole = readDigest(name) !== undefined;
    // One that comes right now is younger than that; an older one was cut off by a crash.
    if (!isWhole && Date.now() - found.mtimeMs > abandonedMs)
      await rm(join(folder, name), { force: true });
    if (isWhole) kept.push({ name, bytes: found.size, usedAt: found.mtimeMs });
  }
  let sum = kept.reduce((all, one) => all + one.bytes, 0);
  for (const one of kept.toSorted((a, b) => a.usedAt - b.usedAt)) {
    if (sum <= limitBytes) break;
    await rm(join(folder, one.name), { force: true });
    sum -= one.bytes;
  }
}

const abandonedMs = 3_600_000;
