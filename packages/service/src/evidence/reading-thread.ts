import { readFileSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import type { LockedPackages, PagesCompared } from '@vaquero/core';
import type { FileRead, ReadingReply, ReadingTask } from './reading-worker.ts';

/** What came of a task: all of it, or what was read until one thing took too long; then the thread is gone. */
export interface ReadingEnd {
  readonly read: readonly FileRead[];
  readonly report: Extract<ReadingReply, { report: unknown }>['report'] | null;
  readonly packages: LockedPackages | null;
  readonly compared: PagesCompared | null;
  /** The place of the file that took too long; 0 for a report. Null when all was read. */
  readonly lateAt: number | null;
}

/** A thread that reads what strangers wrote, and is ended when one thing of it takes too long. */
export interface ReadingThread {
  /** Throws what it failed by. `mostMs` is what one thing of this task may take, where that is not the usual. */
  readonly run: (task: ReadingTask, mostMs?: number) => Promise<ReadingEnd>;
  readonly stop: () => Promise<void>;
}

const lookEveryMs = 100;

/**
 * Starts a thread. `usualMs` is what one file or report may take of a processor; time in which the thread waited for one
 * does not count, so that a busy machine takes nothing for too long that is not.
 */
export function startReadingThread(usualMs: number): ReadingThread {
  const worker = startWorker();
  let isOver = false;
  worker
    .once('exit', () => {
      isOver = true;
    })
    .on('error', () => undefined); // Whoever waits for it hears of it.
  let number: number | null = null;
  worker.on('message', (reply: ReadingReply) => {
    if ('thread' in reply) number = reply.thread;
  });
  const run = (task: ReadingTask, mostMs = usualMs): Promise<ReadingEnd> =>
    new Promise((resolve, reject) => {
      const read: FileRead[] = [];
      let report: ReadingEnd['report'] = null;
      let packages: LockedPackages | null = null;
      let compared: PagesCompared | null = null;
      const place = (): number => ('progress' in task ? Atomics.load(task.progress, 0) : 0);
      let since = { place: -1, ms: 0 };
      const end = (settle: () => void): void => {
        clearInterval(timer);
        worker.off('message', hear).off('error', fail).off('exit', gone);
        settle();
      };
      const fail = (error: unknown): void => {
        // A file that fills the memory of its thread is one that cannot be read, as one that takes too long.
        const isFull =
          error instanceof Error && 'code' in error && error.code === 'ERR_WORKER_OUT_OF_MEMORY';
        end(() =>
          isFull ? resolve({ read, report, packages, compared, lateAt: place() }) : reject(error),
        );
      };
      const gone = (): void => fail(new Error('a reading thread ended'));
      const hear = (reply: ReadingReply): void => {
        if ('done' in reply) end(() => resolve({ read, report, packages, compared, lateAt: null }));
        else if ('failure' in reply) fail(new Error(reply.failure));
        else take(reply);
      };
      const take = (reply: ReadingReply): void => {
        if ('read' in reply) read.push(...reply.read);
        else if ('report' in reply) report = reply.report;
        else if ('packages' in reply) packages = reply.packages;
        else if ('compared' in reply) compared = reply.compared;
      };
      const look = (): void => {
        if (number === null) return; // It is still being loaded, which no file of a stranger's has a hand in.
        const ms = processorMs(number);
        if (since.place !== place()) since = { place: place(), ms };
        if (ms - since.ms <= mostMs) return;
        const lateAt = place();
        end(
          () =>
            void worker
              .terminate()
              .then(() => resolve({ read, report, packages, compared, lateAt }), reject),
        );
      };
      const timer = setInterval(look, lookEveryMs);
      worker.on('message', hear).on('error', fail).on('exit', gone);
      if (isOver) gone();
      else worker.postMessage(task);
    });
  return {
    run,
    stop: async () => {
      await worker.terminate();
    },
  };
}

/** What a thread of this process has had of a processor. Source: proc(5), schedstat, in ns. */
function processorMs(thread: number): number {
  try {
    const text = readFileSync(`/proc/self/task/${thread}/schedstat`, 'utf8');
    return Number(text.split(' ')[0]) / 1e6;
  } catch {
    return 0; // It has just ended; what it said last is on its way.
  }
}

/** The largest file that is read is 20 MiB; its tree takes some fifty times as much. */
const resourceLimits = { maxOldGenerationSizeMb: 1536 };

/** From a bundle the thread is a file beside it; from the sources it must first learn to read TypeScript. */
function startWorker(): Worker {
  const worker = import.meta.url.endsWith('.ts')
    ? new Worker(
        `import('tsx/esm/api').then((tsx) => { tsx.register(); return import(${JSON.stringify(new URL('./reading-worker.ts', import.meta.url).href)}); })`,
        { eval: true, resourceLimits },
      )
    : new Worker(new URL('./reading-worker.mjs', import.meta.url), { resourceLimits });
  worker.unref();
  return worker;
}
