import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { type RoutingTable, roleRoutes } from '@vaquero/contracts';
import { absent } from '../blobs/absent.ts';
import type { CopyReply, CopyTask } from './copy-thread.ts';

/** The copy of the routing table that an edge starts from when the api is away. */
export interface TableCopy {
  /** The newest that is whole. Undefined when there is none, or none that this version understands. */
  readonly read: () => Promise<RoutingTable | undefined>;
  /** Writes it, one at a time. Throws when the disk does not take it. */
  readonly write: (table: RoutingTable) => Promise<void>;
  readonly stop: () => Promise<void>;
}

/**
 * Opens the copy in a directory. It is written into two files in turn, so that one of them is whole at every instant,
 * and in a thread: as five steps of this one's event loop each would wait behind the requests of a busy edge,
 * and as one step it would stall them on a slow disk.
 */
export function openTableCopy(directory: string): TableCopy {
  const paths = ['table.1', 'table.2'].map((name) => join(directory, name));
  let worker: Worker | null = null;
  /** Where the newest whole copy is; the next is written elsewhere. */
  let newestAt: string | undefined;

  const put = async (path: string, text: string): Promise<void> => {
    if (worker === null) {
      worker = startThread();
      worker.unref();
    }
    worker.postMessage({ path, text } satisfies CopyTask);
    const [problem] = (await once(worker, 'message')) as [CopyReply];
    if (problem !== null) throw new Error(`the copy of the table was not written: ${problem}`);
  };
  return {
    read: async () => {
      const found = await Promise.all(
        paths.map(async (path) => {
          const copy = await readCopy(path);
          return copy === undefined ? [] : [{ path, table: copy }];
        }),
      );
      const [newest] = found.flat().toSorted((a, b) => b.table.revision - a.table.revision);
      newestAt = newest?.path;
      return newest?.table;
    },
    write: async (table) => {
      const path = paths.find((one) => one !== newestAt) ?? directory;
      const text = JSON.stringify(table);
      await put(path, sealed(text, hashOf(text)));
      newestAt = path;
    },
    stop: async () => {
      await worker?.terminate();
    },
  };
}

/** One copy, if it is whole. Those of before 0.18 say more, of artifacts, which are asked for by name since. */
async function readCopy(path: string): Promise<RoutingTable | undefined> {
  const bytes = await readFile(path).catch(absent); // No copy yet: this edge is new.
  const said = bytes === undefined ? undefined : unsealed(bytes);
  return roleRoutes.routingTable.safeParse(said).data;
}

/** A first line that says how much of the file counts, and by what it is known to be whole. */
function sealed(text: string, hash: string): string {
  return `${Buffer.byteLength(text)} ${hash}\n${text}`;
}

/** What a file says; undefined for one that a crash or a failing disk has cut short or mixed with other bytes: the api has the table. */
function unsealed(bytes: Buffer): unknown {
  const end = bytes.indexOf('\n');
  const [length = '', hash] = bytes.toString('latin1', 0, Math.max(end, 0)).split(' ');
  const text = bytes.subarray(end + 1, end + 1 + Number(length));
  if (hashOf(text) !== hash) return undefined;
  return JSON.parse(text.toString('utf8'));
}

function hashOf(text: string | Buffer): string {
  return createHash('sha256').update(text).digest('hex');
}

/** From a bundle the thread is a file beside it; from the sources it must first learn to read TypeScript. */
function startThread(): Worker {
  if (!import.meta.url.endsWith('.ts'))
    return new Worker(new URL('./copy-thread.mjs', import.meta.url));
  const entry = new URL('./copy-thread.ts', import.meta.url).href;
  const text = `import('tsx/esm/api').then((tsx) => { tsx.register(); return import(${JSON.stringify(entry)}); })`;
  return new Worker(text, { eval: true });
}
