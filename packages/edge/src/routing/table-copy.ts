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
  let written: { readonly artifacts: RoutingTable['artifacts']; readonly text: string } | null =
    null;
  /** The table as text; that of its artifacts, which can be thousands, is made once for all moves among them. */
  const textOf = ({ artifacts, ...rest }: RoutingTable): string => {
    if (written?.artifacts !== artifacts) written = { artifacts, text: JSON.stringify(artifacts) };
    return `${JSON.stringify(rest).slice(0, -1)},"artifacts":${written.text}}`;
  };
  return {
    read: async () => {
      const found = await Promise.all(
        paths.map(async (path) => {
          const bytes = await readFile(path).catch(absent); // No copy yet: this edge is new.
          const table = bytes === undefined ? undefined : unsealed(bytes);
          return table === undefined ? [] : [{ path, table }];
        }),
      );
      const [newest] = found.flat().toSorted((a, b) => b.table.revision - a.table.revision);
      newestAt = newest?.path;
      return newest?.table;
    },
    write: async (table) => {
      if (worker === null) {
        worker = startThread();
        worker.unref();
      }
      const path = paths.find((one) => one !== newestAt) ?? directory;
      worker.postMessage({ path, text: sealed(textOf(table)) } satisfies CopyTask);
      const [problem] = (await once(worker, 'message')) as [CopyReply];
      if (problem !== null) throw new Error(`the copy of the table was not written: ${problem}`);
      newestAt = path;
    },
    stop: async () => {
      await worker?.terminate();
    },
  };
}

/** A first line that says how much of the file counts, and by what it is known to be whole. */
function sealed(text: string): string {
  return `${Buffer.byteLength(text)} ${hashOf(text)}\n${text}`;
}

/** A copy that a crash or a failing disk has cut short or mixed with other bytes is none: the api has the table. */
function unsealed(bytes: Buffer): RoutingTable | undefined {
  const end = bytes.indexOf('\n');
  const [length = '', hash] = bytes.toString('latin1', 0, Math.max(end, 0)).split(' ');
  const text = bytes.subarray(end + 1, end + 1 + Number(length));
  if (hashOf(text) !== hash) return undefined;
  const read = roleRoutes.routingTable.safeParse(JSON.parse(text.toString('utf8')));
  return read.success ? read.data : undefined;
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
