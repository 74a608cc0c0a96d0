import { readFileSync, readlinkSync } from 'node:fs';
import { parentPort } from 'node:worker_threads';
import {
  comparePages,
  type FileFacts,
  type LockedPackages,
  type PagesCompared,
  type PageTexts,
} from '@vaquero/core';
import { stepBack } from '../base/precedence.ts';
import { readLock } from '../builds/read-lock.ts';
import type { EvidenceContent } from './evidence-rows.ts';
import { type FileKind, findValues, readFacts } from './file-facts.ts';
import { type Report, readReport } from './read-report.ts';
import type { Read } from './report-read.ts';
import { visibleText } from './visible-text.ts';

/** One file to read: `facts` says whether what it holds is to be read, or only values sought in it. */
export interface FileToRead {
  readonly digest: string;
  readonly source: string;
  readonly kind: FileKind;
  readonly facts: boolean;
  /** Whether the text that it shows is to be read. */
  readonly text?: boolean;
}

/** What was read of one file. */
export interface FileRead {
  readonly digest: string;
  readonly facts: FileFacts | null;
  readonly values: readonly { readonly name: string; readonly line: number }[];
  /** The text that a page shows; null where it was not asked for. */
  readonly text: string | null;
}

/** Work for a reading thread. `progress` holds the place of the file that is being read. */
export type ReadingTask =
  | {
      readonly files: readonly FileToRead[];
      readonly values: readonly { readonly name: string; readonly value: string }[];
      readonly progress: Int32Array;
    }
  | { readonly report: Report['kind']; readonly text: string }
  /** A lock file of a package manager, by its path. */
  | { readonly lock: string; readonly text: string }
  | { readonly compare: readonly PageTexts[] };

/** What a thread says: who it is, what of its files it has read since, that all is read, or what it failed by. */
export type ReadingReply =
  | { readonly thread: number }
  | { readonly read: readonly FileRead[] }
  | { readonly report: Read<EvidenceContent> }
  | { readonly packages: LockedPackages }
  | { readonly compared: PagesCompared }
  | { readonly done: true }
  | { readonly failure: string };

const say = (reply: ReadingReply): void => parentPort?.postMessage(reply);
/** So many files are told together. */
const toldTogether = 32;

// Seconds of reading are not to stand before the edge as the api's moments do; 0 is this thread (setpriority(2)).
if (parentPort !== null) stepBack(0);
// By its number the processor time of this very thread is found (proc(5), /proc/thread-self).
say({ thread: Number(readlinkSync('/proc/thread-self').split('/').at(-1)) });

parentPort?.on('message', (task: ReadingTask) => {
  try {
    if ('report' in task) say({ report: readReport(task.report, task.text) });
    else if ('lock' in task) say({ packages: readLock(task.lock, task.text) });
    else if ('compare' in task) say({ compared: comparePages(task.compare) });
    else readFiles(task);
    say({ done: true });
  } catch (error) {
    say({ failure: error instanceof Error ? error.message : String(error) });
  }
});

function readFiles({ files, values, progress }: Extract<ReadingTask, { files: unknown }>): void {
  let read: FileRead[] = [];
  for (const [place, { digest, source, kind, facts, text }] of files.entries()) {
    Atomics.store(progress, 0, place);
    const bytes = readFileSync(source);
    read.push({
      digest,
      facts: facts ? readFacts(kind, bytes) : null,
      values: findValues(bytes, values),
      text: text === true ? visibleText(bytes.toString('utf8')) : null,
    });
    if (read.length < toldTogether) continue;
    say({ read });
    read = [];
  }
  say({ read });
}
