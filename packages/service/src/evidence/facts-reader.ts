import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import type { FileFacts } from '@vaquero/core';
import type { FactsReply, FactsTask } from './facts-worker.ts';

/** Reads files in a thread, so that a large site does not hold up the calls of people. */
export interface FactsReader {
  /** Facts that were read or fetched lately, by digest and kind: most files of a site are those of the one before. */
  readonly known: Map<string, FileFacts>;
  readonly read: (task: FactsTask) => Promise<Extract<FactsReply, { read: unknown }>['read']>;
  readonly stop: () => Promise<void>;
}

/** Makes a reader; its thread starts with the first task and lives as long as the api. */
export function makeFactsReader(): FactsReader {
  let worker: Worker | null = null;
  let turn: Promise<unknown> = Promise.resolve();
  const ask = async (task: FactsTask): Promise<Extract<FactsReply, { read: unknown }>['read']> => {
    worker ??= startWorker();
    worker.postMessage(task);
    const [reply] = (await once(worker, 'message')) as [FactsReply];
    if ('failure' in reply) throw new Error(reply.failure);
    return reply.read;
  };
  return {
    known: new Map(),
    read: (task) => {
      const next = turn.then(() => (task.files.length === 0 ? [] : ask(task)));
      turn = next.catch(() => undefined); // The caller hears of the failure; the next one must not wait on it.
      return next;
    },
    stop: async () => {
      await worker?.terminate();
    },
  };
}

/** From a bundle the thread is a file beside it; from the sources it must first learn to read TypeScript. */
function startWorker(): Worker {
  const worker = import.meta.url.endsWith('.ts')
    ? new Worker(
        `import('tsx/esm/api').then((tsx) => { tsx.register(); return import(${JSON.stringify(new URL('./facts-worker.ts', import.meta.url).href)}); })`,
        { eval: true },
      )
    : new Worker(new URL('./facts-worker.mjs', import.meta.url));
  worker.unref();
  return worker;
}
