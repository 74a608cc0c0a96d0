import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import type { FileFacts } from '@vaquero/core';
import type { FactsReply, FactsTask } from './facts-worker.ts';
import type { FileKind } from './file-facts.ts';

/** Reads files in a thread, so that a large site does not hold up the calls of people. */
export interface FactsReader {
  /** Facts that were read or fetched lately: most files of a site are those of the one before. */
  readonly known: KnownFacts;
  readonly read: (task: FactsTask) => Promise<Extract<FactsReply, { read: unknown }>['read']>;
  readonly stop: () => Promise<void>;
}

/** Facts of files in memory. By kind first: a digest is found by itself then, without a key made of both. */
export interface KnownFacts {
  readonly get: (kind: FileKind, digest: string) => FileFacts | undefined;
  readonly set: (kind: FileKind, digest: string, facts: FileFacts) => void;
}

/** More than the sites of one installation hold together; beyond it, what was remembered first goes. */
const mostRemembered = 100_000;

function makeKnownFacts(): KnownFacts {
  const known = new Map<FileKind, Map<string, FileFacts>>();
  return {
    get: (kind, digest) => known.get(kind)?.get(digest),
    set: (kind, digest, facts) => {
      const own = known.get(kind) ?? new Map<string, FileFacts>();
      known.set(kind, own);
      own.set(digest, facts);
      const [oldest] = own.keys();
      if (own.size > mostRemembered && oldest !== undefined) own.delete(oldest);
    },
  };
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
    known: makeKnownFacts(),
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
