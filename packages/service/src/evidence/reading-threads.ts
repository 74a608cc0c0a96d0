import { availableParallelism } from 'node:os';
import type { LockedPackages, PagesCompared, PageTexts } from '@vaquero/core';
import type { EvidenceContent } from './evidence-rows.ts';
import { type KnownFacts, makeKnownFacts } from './known-facts.ts';
import type { Report } from './read-report.ts';
import { type ReadingThread, startReadingThread } from './reading-thread.ts';
import type { FileRead, FileToRead } from './reading-worker.ts';
import type { Read } from './report-read.ts';

declare module '../base/deps.ts' {
  interface Deps {
    /** Reads what stands in files of artifacts and in reports, in threads. */
    readonly reading: ReadingThreads;
  }
}

/** Reads what strangers wrote, in threads, so that none of it holds up the calls of people or the reading of others. */
export interface ReadingThreads {
  /** Facts that were read or fetched lately: most files of a site are those of the one before. */
  readonly known: KnownFacts;
  /** What was read of each file, in their order; `late` for one that took too long. */
  readonly files: (
    files: readonly FileToRead[],
    values: readonly { readonly name: string; readonly value: string }[],
  ) => Promise<readonly (FileRead | 'late')[]>;
  /** Reads a report; one that takes too long cannot be read. */
  readonly report: (kind: Report['kind'], text: string) => Promise<Read<EvidenceContent>>;
  /** The packages of a lock file; none when it cannot be read in time, since then it tells nothing. */
  readonly lock: (path: string, text: string) => Promise<LockedPackages>;
  /** What pages say otherwise; `late` where finding it takes too long. */
  readonly compare: (pages: readonly PageTexts[]) => Promise<PagesCompared | 'late'>;
  readonly stop: () => Promise<void>;
}

/** What one file or report may take of a processor. */
const mostMs = 2000;
/** What comparing all pages of two artifacts may take, where nothing else is said. */
const usualComparingMs = 20_000;

/** Makes as many threads as there are processors, each at its first use. */
export function makeReadingThreads(bounds: { readonly comparingMs?: number } = {}): ReadingThreads {
  const comparingMs = bounds.comparingMs ?? usualComparingMs;
  const most = Math.max(2, availableParallelism());
  const idle: ReadingThread[] = [];
  const all = new Set<ReadingThread>();
  const waiting: (() => void)[] = [];
  let working = 0;

  /** Does something with a thread of its own for as long. A thread that was ended is not used again. */
  const withThread = async <T extends { readonly lateAt: number | null }>(
    work: (thread: ReadingThread) => Promise<T>,
  ): Promise<T> => {
    while (working >= most) await new Promise<void>((resolve) => waiting.push(resolve));
    working += 1;
    const thread = idle.pop() ?? startReadingThread(mostMs);
    all.add(thread);
    let isGood = false;
    try {
      const end = await work(thread);
      isGood = end.lateAt === null;
      return end;
    } finally {
      if (isGood) idle.push(thread);
      else {
        all.delete(thread);
        await thread.stop();
      }
      working -= 1;
      waiting.shift()?.();
    }
  };

  type Values = readonly { readonly name: string; readonly value: string }[];
  /** Reads some of the files, and goes on behind one that took too long. */
  const readPart = async (
    files: readonly FileToRead[],
    places: readonly number[],
    values: Values,
    result: (FileRead | 'late')[],
  ): Promise<void> => {
    for (let left = places; left.length > 0; ) {
      const now = left;
      const progress = new Int32Array(new SharedArrayBuffer(4));
      const task = { files: now.flatMap((place) => files[place] ?? []), values, progress };
      const { read, lateAt } = await withThread((thread) => thread.run(task));
      for (const [place, one] of read.entries()) result[now[place] ?? 0] = one;
      if (lateAt !== null) result[now[lateAt] ?? 0] = 'late';
      // What it read and had not told yet is read again.
      left =
        lateAt === null ? [] : now.filter((_, place) => place >= read.length && place !== lateAt);
    }
  };

  return {
    known: makeKnownFacts(),
    files: async (files, values) => {
      const result: (FileRead | 'late')[] = [];
      const parts = Array.from({ length: most }, (_, part) =>
        [...files.keys()].filter((place) => place % most === part),
      );
      await Promise.all(parts.map((places) => readPart(files, places, values, result)));
      return result;
    },
    report: async (kind, text) => {
      const { report } = await withThread((thread) => thread.run({ report: kind, text }));
      return report ?? { ok: false, why: `reading it took over ${mostMs / 1000} s` };
    },
    lock: async (path, text) => {
      const { packages } = await withThread((thread) => thread.run({ lock: path, text }));
      return packages ?? new Map();
    },
    compare: async (pages) => {
      const { compared } = await withThread((thread) =>
        thread.run({ compare: pages }, comparingMs),
      );
      return compared ?? 'late';
    },
    stop: async () => {
      await Promise.all([...all].map((thread) => thread.stop()));
    },
  };
}
