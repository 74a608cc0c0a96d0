import { mkdirSync } from 'node:fs';
import { open, readdir, rename, rm, stat, utimes } from 'node:fs/promises';
import { join } from 'node:path';
import type { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import * as zlib from 'node:zlib';
import type { Digest } from '@vaquero/core';
import type { Logger } from 'pino';
import { absent } from './absent.ts';
import type { VerifiedFiles } from './open-verified.ts';
import { piecesOf } from './pieces.ts';

/** Makes a stream that compresses; Node has zstd from its line 22 on, and its types are those of 20. */
type MakeStream = () => Transform;
const zstd = (zlib as { readonly createZstdCompress?: MakeStream }).createZstdCompress;

/** How each encoding is made. Brotli 5 and gzip 6 give most of the gain in a fraction of the time (7 ms against 399 for 200 KiB at brotli 11). */
const makers: Readonly<Record<string, MakeStream>> = {
  br: () => zlib.createBrotliCompress({ params: { [zlib.constants.BROTLI_PARAM_QUALITY]: 5 } }),
  ...(zstd === undefined ? {} : { zstd }),
  gzip: () => zlib.createGzip({ level: 6 }),
};

/** Encodings we make, best first. Source: RFC 7932, RFC 8878, RFC 1952. */
export const encodings: readonly string[] = Object.keys(makers);

/** A compressed form on the disk of this edge. */
export interface Form {
  readonly path: string;
  readonly sizeBytes: number;
}

/** Compressed forms of texts, made aside and kept on disk by digest. */
export interface Compressed {
  /** The compressed form, if it has been made and is smaller. */
  readonly get: (digest: Digest, encoding: string) => Form | undefined;
  /** Asks for the forms of a text; they come when there is time. */
  readonly want: (digest: Digest, sizeBytes: number) => void;
  /** Settles when all that was asked for so far has been made. */
  readonly made: () => Promise<void>;
  /** Removes forms of files that have not been served for a time; returns how many. */
  readonly sweep: (served: ReadonlySet<string>, keptMs: number) => Promise<number>;
  readonly stop: () => Promise<void>;
}

const least = 256;
const mostKnown = 200_000;

/** Makes compressed forms one text at a time and piece by piece, off the path of any request. */
export function makeCompressed(
  verified: VerifiedFiles,
  directory: string,
  log: Logger,
): Compressed {
  mkdirSync(directory, { recursive: true });
  const forms = new Map<string, Form>();
  const known = new Set<Digest>();
  const queue: { readonly digest: Digest; readonly sizeBytes: number }[] = [];
  const stop = new AbortController();
  let working: Promise<void> | null = null;

  async function make(digest: Digest, sizeBytes: number): Promise<void> {
    for (const encoding of encodings) {
      const path = join(directory, `${digest}.${encoding}`);
      // Not made yet, or swept: it is made.
      const size =
        (await stat(path).catch(absent))?.size ?? (await write(digest, sizeBytes, encoding, path));
      // What does not become smaller is kept as an empty file, and not made anew at each start.
      if (size > 0) forms.set(`${digest}.${encoding}`, { path, sizeBytes: size });
    }
  }

  async function write(
    digest: Digest,
    sizeBytes: number,
    encoding: string,
    path: string,
  ): Promise<number> {
    const source = await verified.open(digest, sizeBytes);
    const unfinished = `${path}.${process.pid}`;
    try {
      const target = await open(unfinished, 'w', 0o600);
      try {
        const maker = makers[encoding] ?? zlib.createGzip;
        await pipeline(
          piecesOf(source, 0, sizeBytes - 1),
          maker(),
          async (made: AsyncIterable<Buffer>) => {
            for await (const piece of made) await target.write(piece);
          },
          { signal: stop.signal },
        );
        const { size } = await target.stat();
        const isSmaller = size < sizeBytes;
        if (!isSmaller) await target.truncate(0);
        await rename(unfinished, path);
        return isSmaller ? size : 0;
      } finally {
        await target.close();
      }
    } finally {
      await source.close();
      await rm(unfinished, { force: true });
    }
  }

  async function work(): Promise<void> {
    for (let one = queue.shift(); one !== undefined && !stop.signal.aborted; one = queue.shift()) {
      const { digest, sizeBytes } = one;
      await make(digest, sizeBytes).catch((err: unknown) => {
        if (!stop.signal.aborted) log.warn({ err, digest }, 'compressed forms were not made');
      });
    }
    working = null;
  }

  return {
    get: (digest, encoding) => forms.get(`${digest}.${encoding}`),
    want: (digest, sizeBytes) => {
      if (known.has(digest) || sizeBytes < least || stop.signal.aborted) return;
      if (known.size >= mostKnown) known.clear();
      known.add(digest);
      queue.push({ digest, sizeBytes });
      working ??= work();
    },
    made: async () => {
      while (working !== null) await working;
    },
    sweep: async (served, keptMs) => {
      let removed = 0;
      for (const name of await readdir(directory)) {
        const [digest = ''] = name.split('.', 1);
        const path = join(directory, name);
        const now = Date.now();
        if (served.has(digest)) {
          await utimes(path, now / 1000, now / 1000);
          continue;
        }
        const { mtimeMs } = await stat(path);
        if (now - mtimeMs < keptMs) continue;
        forms.delete(name);
        known.delete(digest as Digest);
        await rm(path, { force: true });
        removed += 1;
      }
      return removed;
    },
    stop: async () => {
      stop.abort();
      await working;
    },
  };
}
