import { readFileSync } from 'node:fs';
import { parentPort } from 'node:worker_threads';
import type { FileFacts } from '@vaquero/core';
import { stepBack } from '../supervision/precedence.ts';
import { type FileKind, findValues, readFacts } from './file-facts.ts';

/** Files to read in a thread: `facts` says whether what it holds is to be read, or only values sought in it. */
export interface FactsTask {
  readonly files: readonly {
    readonly digest: string;
    readonly source: string;
    readonly kind: FileKind;
    readonly facts: boolean;
  }[];
  readonly values: readonly { readonly name: string; readonly value: string }[];
}

/** What was read, in the order of the task. */
export type FactsReply =
  | {
      readonly read: readonly {
        readonly digest: string;
        readonly facts: FileFacts | null;
        readonly values: readonly { readonly name: string; readonly line: number }[];
      }[];
    }
  | { readonly failure: string };

// Seconds of reading are not to stand before the edge as the api's moments do; 0 is this thread (setpriority(2)).
if (parentPort !== null) stepBack(0);

parentPort?.on('message', ({ files, values }: FactsTask) => {
  try {
    const read = files.map(({ digest, source, kind, facts }) => {
      const bytes = readFileSync(source);
      return {
        digest,
        facts: facts ? readFacts(kind, bytes) : null,
        values: findValues(bytes, values),
      };
    });
    parentPort?.postMessage({ read } satisfies FactsReply);
  } catch (error) {
    parentPort?.postMessage({
      failure: error instanceof Error ? error.message : String(error),
    } satisfies FactsReply);
  }
});
