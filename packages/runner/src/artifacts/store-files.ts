import { once } from 'node:events';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { Digest } from '@vaquero/core';
import { execa } from 'execa';
import type { Sealed } from '../outputs/seal-folder.ts';
import type { KnownFile, StoreReply, StoreTask } from './store-worker.ts';
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
  readonly store: (files: readonly OutputFile[]) => Promise<readonly StoredFile[]>;
  /** Gives files of sealed outputs a name in the store; their digests are known, so none is read. */
  readonly link: (files: readonly KnownFile[]) => Promise<readonly StoredFile[]>;
  /** Makes a folder unchangeable and names what it holds. */
  readonly seal: (folder: string) => Promise<Sealed>;
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
  const storeNow = async <Item>(
    items: readonly Item[],
    taskOf: (part: readonly Item[]) => StoreTask,
  ): Promise<readonly StoredFile[]> => {
    if (items.length === 0) return [];
    const begun = execa('sync', ['-f', directory]);
    const half = Math.ceil(items.length / workers.length);
    const parts = await Promise.all(
      workers.map(async (worker, place) => {
        const part = items.slice(place * half, (place + 1) * half);
        const reply = part.length === 0 ? { files: [] } : await ask(worker, taskOf(part));
        return 'files' in reply ? reply.files : [];
      }),
    );
    // One sync of the file system for all files, before the database says that they are there. Most of
    // it was begun before they were hashed, so that little is left to wait for.
    await begun;
    await execa('sync', ['-f', directory]);
    return parts.flat();
  };
  /** One task at a time: a thread answers in the order it is asked, and an answer names no task. */
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const next = turn.then(work);
    turn = next.catch(() => undefined); // The caller hears of the failure; the next one must not wait on it.
    return next;
  };
  return {
    store: (files) => inTurn(() => storeNow(files, (part) => ({ directory, files: part }))),
    link: (files) => inTurn(() => storeNow(files, (part) => ({ directory, sealed: part }))),
    seal: (folder) =>
      inTurn(async () => {
        const [worker] = workers;
        if (worker === undefined) throw new Error('the store has no thread');
        const reply = await ask(worker, { seal: folder });
        if (!('sealed' in reply)) throw new Error('the thread answered another task');
        return reply.sealed;
      }),
    stop: async () => {
      await Promise.all(workers.map((worker) => worker.terminate()));
    },
  };
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
