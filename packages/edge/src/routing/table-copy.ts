import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { type RoutingTable, roleRoutes } from '@vaquero/contracts';
import { z } from 'zod';
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

/** Where a table's artifacts are, and by what they are known to be those. */
const elsewhere = z.object({ name: z.enum(['artifacts.1', 'artifacts.2']), hash: z.string() });
type Elsewhere = z.output<typeof elsewhere>;

/** A list of artifacts that is on disk. */
interface Kept extends Elsewhere {
  readonly artifacts: RoutingTable['artifacts'];
}

/**
 * Opens the copy in a directory. It is written into two files in turn, so that one of them is whole at every instant,
 * and in a thread: as five steps of this one's event loop each would wait behind the requests of a busy edge,
 * and as one step it would stall them on a slow disk. Artifacts, which can be thousands, have files of their own, written
 * when there is another list of them: a move changes none.
 */
export function openTableCopy(directory: string): TableCopy {
  const paths = ['table.1', 'table.2'].map((name) => join(directory, name));
  let worker: Worker | null = null;
  /** Where the newest whole copy is; the next is written elsewhere. */
  let newestAt: string | undefined;
  /** The artifacts that this copy means: their file is not written over. */
  let meant: Elsewhere | null = null;
  let kept: Kept | null = null;

  const put = async (path: string, text: string): Promise<void> => {
    if (worker === null) {
      worker = startThread();
      worker.unref();
    }
    worker.postMessage({ path, text } satisfies CopyTask);
    const [problem] = (await once(worker, 'message')) as [CopyReply];
    if (problem !== null) throw new Error(`the copy of the table was not written: ${problem}`);
  };
  const keep = async (artifacts: RoutingTable['artifacts']): Promise<Kept> => {
    if (kept?.artifacts === artifacts) return kept;
    const text = JSON.stringify(artifacts);
    const hash = hashOf(text);
    if (kept?.hash === hash) return { ...kept, artifacts };
    const name = meant?.name === 'artifacts.1' ? 'artifacts.2' : 'artifacts.1';
    kept = null; // Until it is whole, nothing is there.
    await put(join(directory, name), sealed(text, hash));
    return { artifacts, name, hash };
  };
  return {
    read: async () => {
      const found = await Promise.all(
        paths.map(async (path) => {
          const copy = await readCopy(directory, path);
          return copy === undefined ? [] : [{ path, ...copy }];
        }),
      );
      const [newest] = found.flat().toSorted((a, b) => b.table.revision - a.table.revision);
      newestAt = newest?.path;
      meant = newest?.at ?? null;
      kept = newest?.at == null ? null : { ...newest.at, artifacts: newest.table.artifacts };
      return newest?.table;
    },
    write: async ({ artifacts, ...rest }) => {
      kept = await keep(artifacts);
      const { name, hash } = kept;
      const path = paths.find((one) => one !== newestAt) ?? directory;
      const text = JSON.stringify({ ...rest, artifactsIn: { name, hash } });
      await put(path, sealed(text, hashOf(text)));
      newestAt = path;
      meant = { name, hash };
    },
    stop: async () => {
      await worker?.terminate();
    },
  };
}

/** One copy, if it is whole and so is what it means; one of before 0.16 has its artifacts within itself. */
async function readCopy(
  directory: string,
  path: string,
): Promise<{ readonly table: RoutingTable; readonly at: Elsewhere | null } | undefined> {
  const bytes = await readFile(path).catch(absent); // No copy yet: this edge is new.
  const said = bytes === undefined ? undefined : unsealed(bytes, null);
  if (typeof said !== 'object' || said === null) return undefined;
  const at = elsewhere.safeParse('artifactsIn' in said ? said.artifactsIn : undefined);
  const own = at.success ? await readFile(join(directory, at.data.name)).catch(absent) : undefined;
  const artifacts = at.success && own !== undefined ? unsealed(own, at.data.hash) : undefined;
  const read = roleRoutes.routingTable.safeParse(at.success ? { ...said, artifacts } : said);
  return read.success ? { table: read.data, at: at.success ? at.data : null } : undefined;
}

/** A first line that says how much of the file counts, and by what it is known to be whole. */
function sealed(text: string, hash: string): string {
  return `${Buffer.byteLength(text)} ${hash}\n${text}`;
}

/**
 * What a file says; undefined for one that a crash or a failing disk has cut short or mixed with other bytes, or that is not
 * the one that is meant: the api has the table.
 */
function unsealed(bytes: Buffer, meant: string | null): unknown {
  const end = bytes.indexOf('\n');
  const [length = '', hash] = bytes.toString('latin1', 0, Math.max(end, 0)).split(' ');
  const text = bytes.subarray(end + 1, end + 1 + Number(length));
  if (hashOf(text) !== hash || (meant !== null && meant !== hash)) return undefined;
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
