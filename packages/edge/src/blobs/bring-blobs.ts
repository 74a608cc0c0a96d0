import { createHash, randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, readdir, rename, rm, stat, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream } from 'node:stream/web';
import { type Client, pathOf, roleRoutes } from '@vaquero/contracts';
import type { Digest } from '@vaquero/core';
import { readIndex } from '../routing/artifact-index.ts';
import { BlobDamaged, blobPath, readVerified } from './read-blob.ts';

/** Brings artifacts from a store on another machine into this one's. */
export interface Bringer {
  /** Settles when manifest and files of an artifact are here. Throws when one cannot be had. */
  readonly bring: (artifact: Digest) => Promise<void>;
  /** Brings an artifact of which something here is damaged: what holds other bytes than its name says is fetched anew. */
  readonly mend: (artifact: Digest) => Promise<void>;
  /** Removes what none of some artifacts holds, if it has lain here for longer than `olderMs`; says how much. */
  readonly sweep: (artifacts: ReadonlySet<Digest>, olderMs: number) => Promise<number>;
}

/** More wait for their turn than anybody honest causes. */
const mostWaiting = 20;

/**
 * Brings one artifact at a time, for visitors: addresses of builds can be guessed, and whoever guesses them
 * all at once must not set everything in motion. Throws when too many wait.
 */
export function inTurn(bring: Bringer['bring']): Bringer['bring'] {
  let turn: Promise<void> = Promise.resolve();
  const here = new Set<Digest>();
  let waiting = 0;
  return async (artifact) => {
    // What has been brought needs no turn; it is asked for again, in case it was swept.
    if (here.has(artifact)) return bring(artifact);
    if (waiting >= mostWaiting) throw new Error('too many artifacts are asked for at once');
    waiting += 1;
    const mine = turn.then(() => bring(artifact));
    turn = mine.catch(() => undefined); // Whoever asked hears of the failure; the next one has its turn.
    await mine.finally(() => {
      waiting -= 1;
    });
    here.add(artifact);
  };
}

/** So many files are on their way at once. */
const mostAtOnce = 8;

/** Makes a bringer into a store of the edge's own. */
export function makeBringer(client: Client, store: string, signal: AbortSignal): Bringer {
  /** Artifacts that are here whole, or on their way. */
  const known = new Map<Digest, Promise<void>>();

  async function bringAll(artifact: Digest): Promise<void> {
    // Without its list nothing else of it is found, so that one is looked at each time.
    await removeDamaged(store, artifact);
    await bringBlob(client, store, artifact, signal);
    const { files } = readIndex(store, artifact);
    const left = [...new Set([...files.values()].map((file) => file.digest))];
    const work = async (): Promise<void> => {
      for (let digest = left.pop(); digest !== undefined; digest = left.pop())
        await bringBlob(client, store, digest, signal);
    };
    await Promise.all(Array.from({ length: mostAtOnce }, work));
  }

  function bring(artifact: Digest): Promise<void> {
    const there = known.get(artifact);
    if (there !== undefined) return there;
    const brought = bringAll(artifact).catch((error: unknown) => {
      known.delete(artifact);
      throw error;
    });
    known.set(artifact, brought);
    return brought;
  }

  return {
    bring,
    mend: async (artifact) => {
      await removeDamaged(store, artifact);
      await bringBlob(client, store, artifact, signal);
      for (const { digest } of readIndex(store, artifact).files.values())
        await removeDamaged(store, digest);
      known.delete(artifact);
      await bring(artifact);
    },
    sweep: async (artifacts, olderMs) => {
      // What is swept of an artifact that nobody names is fetched again when somebody asks for it.
      for (const artifact of known.keys()) if (!artifacts.has(artifact)) known.delete(artifact);
      await Promise.all(known.values());
      const kept = new Set<string>();
      for (const artifact of artifacts) {
        kept.add(artifact);
        for (const { digest } of readIndex(store, artifact).files.values()) kept.add(digest);
      }
      return removeOthers(join(store, 'sha256'), kept, Date.now() - olderMs);
    },
  };
}

/** What cannot be read counts as damaged too. */
async function removeDamaged(store: string, digest: Digest): Promise<void> {
  const isGood = await readVerified(store, digest).then(
    () => true,
    (error: unknown) => {
      if (error instanceof BlobDamaged) return false;
      throw error;
    },
  );
  if (!isGood) await rm(blobPath(store, digest), { force: true });
}

async function removeOthers(
  directory: string,
  kept: ReadonlySet<string>,
  beforeMs: number,
): Promise<number> {
  let removed = 0;
  for (const folder of await readdir(directory)) {
    for (const name of await readdir(join(directory, folder))) {
      const path = join(directory, folder, name);
      if (kept.has(name) || (await stat(path)).mtimeMs > beforeMs) continue;
      await rm(path);
      removed += 1;
    }
  }
  return removed;
}

/** Fetches one blob unless it is here: under another name, hashed on the way, and renamed when it is what its name says. */
async function bringBlob(
  client: Client,
  store: string,
  digest: Digest,
  signal: AbortSignal,
): Promise<void> {
  const path = blobPath(store, digest);
  if (await isTouched(path)) return;
  const response = await fetch(`${client.address}${pathOf(roleRoutes.blobRoute, { digest })}`, {
    headers: client.headers,
    signal,
  });
  if (!response.ok || response.body === null)
    throw new Error(`blob ${digest.slice(0, 12)} was answered with HTTP ${response.status}`);
  await mkdir(dirname(path), { recursive: true });
  const temporary = `${path}.${randomUUID()}`;
  const hash = createHash('sha256');
  try {
    await pipeline(
      Readable.fromWeb(response.body as ReadableStream),
      async function* (chunks: AsyncIterable<Buffer>) {
        for await (const chunk of chunks) {
          hash.update(chunk);
          yield chunk;
        }
      },
      createWriteStream(temporary, { flags: 'wx', mode: 0o444, flush: true }),
    );
    if (hash.digest('hex') !== digest)
      throw new Error(`blob ${digest.slice(0, 12)} came with other bytes than its name says`);
    await rename(temporary, path);
  } catch (error) {
    await rm(temporary, { force: true });
    throw error;
  }
}

/** Whether a file is there; it then counts as new, so that a sweep leaves what was just relied on. */
async function isTouched(path: string): Promise<boolean> {
  const now = new Date();
  return utimes(path, now, now).then(
    () => true,
    (error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return false;
      throw error;
    },
  );
}
