import { once } from 'node:events';
import { readFile } from 'node:fs/promises';
import { Worker } from 'node:worker_threads';
import { type RoutingTable, roleRoutes } from '@vaquero/contracts';
import { absent } from '../blobs/absent.ts';
import type { CopyReply, CopyTask } from './copy-thread.ts';

/** The copy of the routing table that an edge starts from when the api is away. */
export interface TableCopy {
  /** Undefined when there is none, or none that this version understands. */
  readonly read: () => Promise<RoutingTable | undefined>;
  /** Writes it, one at a time. Throws when the disk does not take it. */
  readonly write: (table: RoutingTable) => Promise<void>;
  readonly stop: () => Promise<void>;
}

/**
 * Opens the copy at a path. It is written in a thread: as five steps of this one's event loop each would wait
 * behind the requests of a busy edge, and as one step it would stall them on a slow disk.
 */
export function openTableCopy(path: string): TableCopy {
  let worker: Worker | null = null;
  let written: { readonly artifacts: RoutingTable['artifacts']; readonly text: string } | null =
    null;
  /** The table as text; that of its artifacts, which can be thousands, is made once for all moves among them. */
  const textOf = ({ artifacts, ...rest }: RoutingTable): string => {
    if (written?.artifacts !== artifacts) written = { artifacts, text: JSON.stringify(artifacts) };
    return `${JSON.stringify(rest).slice(0, -1)},"artifacts":${written.text}}`;
  };
  return {
    read: async () => {
      const text = await readFile(path, 'utf8').catch(absent); // No copy yet: this edge is new.
      if (text === undefined) return undefined;
      const read = roleRoutes.routingTable.safeParse(parsed(text));
      return read.success ? read.data : undefined;
    },
    write: async (table) => {
      if (worker === null) {
        worker = startThread();
        worker.unref();
      }
      worker.postMessage({ path, text: textOf(table) } satisfies CopyTask);
      const [problem] = (await once(worker, 'message')) as [CopyReply];
      if (problem !== null) throw new Error(`the copy of the table was not written: ${problem}`);
    },
    stop: async () => {
      await worker?.terminate();
    },
  };
}

/** A copy that a failing disk has cut short or filled with other bytes is none: the api has the table. */
function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    if (error instanceof SyntaxError) return undefined;
    throw error;
  }
}

/** From a bundle the thread is a file beside it; from the sources it must first learn to read TypeScript. */
function startThread(): Worker {
  if (!import.meta.url.endsWith('.ts'))
    return new Worker(new URL('./copy-thread.mjs', import.meta.url));
  const entry = new URL('./copy-thread.ts', import.meta.url).href;
  const text = `import('tsx/esm/api').then((tsx) => { tsx.register(); return import(${JSON.stringify(entry)}); })`;
  return new Worker(text, { eval: true });
}
