import { once } from 'node:events';
import { mkdirSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { Digest } from '@vaquero/core';
import { execa } from 'execa';
import { type FolderMode, type Sealed, sealedOf } from '../outputs/seal-folder.ts';
import type { Layer } from '../sources/layered.ts';
import { type KnownFile, linkKnown } from './put-blob.ts';
import type { StoreReply, StoreTask } from './store-worker.ts';
import type { OutputFile } from './walk-output.ts';

/** A file that is in the store. */
export interface StoredFile {
  readonly path: string;
  readonly digest: Digest;
  readonly sizeBytes: number;
  readonly mode: 0o644 | 0o755;
}

/** Stores files under their digests, in two threads. */
export interface FileStore {
  /** Stores files that lie below a root. `held` are digests, by path, of what is known to be in the store. */
  readonly store: (
    root: string,
    files: readonly OutputFile[],
    layer?: Layer | null,
    held?: ReadonlyMap<string, { readonly digest: Digest }>,
  ) => Promise<readonly StoredFile[]>;
  /** Gives files of sealed outputs a name in the store; their digests are known, so none is read. */
  readonly link: (files: readonly KnownFile[]) => Promise<readonly StoredFile[]>;
  /** Makes a folder unchangeable and names what it holds. */
  readonly seal: (folder: string, mode: FolderMode) => Promise<Sealed>;
  /** Where a stored file lies. */
  readonly pathOf: (digest: Digest) => string;
  readonly stop: () => Promise<void>;
}

/** Opens the store: makes its folders and starts its threads, which live as long as the runner. */
export function openFileStore(directory: string): FileStore {
  for (let first = 0; first < 256; first += 1)
    mkdirSync(join(directory, 'sha256', first.toString(16).padStart(2, '0')), { recursive: true });
  const workers = [0, 1].map(() => {
    const worker = startWorker();
    worker.unref();
    return worker;
  });
  let turn: Promise<unknown> = Promise.resolve();
  /** Halves of some work, each in a thread of its own. */
  const inHalves = <Item>(
    items: readonly Item[],
    taskOf: (part: readonly Item[]) => StoreTask,
  ): Promise<readonly StoreReply[]> => {
    const half = Math.ceil(items.length / workers.length);
    const parts = workers.map((worker, place) => ({
      worker,
      items: items.slice(place * half, (place + 1) * half),
    }));
    return Promise.all(
      parts
        .filter((part) => part.items.length > 0)
        .map((part) => ask(part.worker, taskOf(part.items))),
    );
  };
  const storeNow = async <Item>(
    items: readonly Item[],
    taskOf: (part: readonly Item[]) => StoreTask,
  ): Promise<readonly StoredFile[]> => {
    const parts = (await inHalves(items, taskOf)).filter((reply) => 'files' in reply);
    await makeDurable(
      directory,
      parts.flatMap((part) => part.fresh),
    );
    return parts.flatMap((part) => part.files);
  };
  const sealNow = async (folder: string, mode: FolderMode): Promise<Sealed> => {
    const [worker] = workers;
    const reply = worker === undefined ? null : await ask(worker, { take: folder, mode });
    if (reply === null || !('entries' in reply)) throw new Error('the store has no thread');
    const files = reply.entries.filter((entry) => entry.kind === 'file');
    const paths = files.map((file) => join(folder, file.path));
    const hashed = await inHalves(paths, (part) => ({ seal: part }));
    return sealedOf(
      reply.entries,
      hashed.flatMap((part) => ('hashed' in part ? part.hashed : [])),
    );
  };

  /** One task at a time: a thread answers in the order it is asked, and an answer names no task. */
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const next = turn.then(work);
    turn = next.catch(() => undefined); // The caller hears of the failure; the next one must not wait on it.
    return next;
  };
  return {
    store: (root, files, layer = null, held = new Map()) =>
      inTurn(() =>
        storeNow(files, (part) => ({
          directory,
          root,
          files: part,
          held: part.map((file) => held.get(file.path)?.digest ?? null),
          layer,
        })),
      ),
    link: async (files) => {
      if (files.length > fewLinks)
        return inTurn(() => storeNow(files, (part) => ({ directory, sealed: part })));
      // Asking a thread takes longer than giving a few names.
      const fresh: string[] = [];
      const linked = files.map((file) => linkKnown(directory, file, fresh));
      await makeDurable(directory, fresh);
      return linked;
    },
    seal: (folder, mode) => inTurn(() => sealNow(folder, mode)),
    pathOf: (digest) => join(directory, 'sha256', digest.slice(0, 2), digest),
    stop: async () => {
      await Promise.all(workers.map((worker) => worker.terminate()));
    },
  };
}

/** So few names are given at once, without a thread. */
const fewLinks = 16;

/** So few files are synced one by one. */
const few = 128;

/**
 * Makes what is new in the store outlive a crash, before the database says that it is there. A few files
 * are synced by themselves with their folders: one sync of the file system, which is cheaper for many, would
 * wait for everything that the build wrote elsewhere too.
 */
async function makeDurable(directory: string, fresh: readonly string[]): Promise<void> {
  if (fresh.length > few) {
    await execa('sync', ['-f', directory]);
    return;
  }
  const paths = [...fresh, ...new Set(fresh.map((blob) => dirname(blob)))];
  await Promise.all(
    paths.map(async (path) => {
      const file = await open(path, 'r');
      await file.sync().finally(() => file.close());
    }),
  );
}

/** From a bundle the thread is a file beside it; from the sources it must first learn to read TypeScript. */
function startWorker(): Worker {
  if (!import.meta.url.endsWith('.ts'))
    return new Worker(new URL('./store-worker.mjs', import.meta.url));
  const entry = new URL('./store-worker.ts', import.meta.url).href;
  const text = `import('tsx/esm/api').then((tsx) => { tsx.register(); return import(${JSON.stringify(entry)}); })`;
  return new Worker(text, { eval: true });
}

async function ask(worker: Worker, task: StoreTask): Promise<StoreReply> {
  worker.postMessage(task);
  const [reply] = (await once(worker, 'message')) as [StoreReply];
  if ('failure' in reply) throw new Error(reply.failure);
  return reply;
}
