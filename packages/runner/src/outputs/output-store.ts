import { randomUUID } from 'node:crypto';
import { mkdir, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Digest } from '@vaquero/core';
import type { Logger } from 'pino';
import { z } from 'zod';
import type { FileStore } from '../artifacts/store-files.ts';
import type { SealedFile } from './seal-folder.ts';

/** What a step wrote, sealed: its folders by their place in the step's `writes`, and every file by its digest. */
export interface Output {
  readonly digest: Digest;
  readonly files: number;
  readonly bytes: number;
  /** The host's folder that holds all of it. */
  readonly root: string;
  /** The host's folder of one of the step's written paths. */
  readonly folder: (place: number) => string;
  readonly list: () => Promise<readonly SealedFile[]>;
  /** Whether it holds nothing but folders and files, so that its list says all of it. */
  readonly plain: boolean;
}

/** Sealed outputs of steps, kept on this machine so that a step that would do the same again need not run. */
export interface OutputStore {
  /** Takes a folder in: seals it and moves it; the same output that is there already is used instead. */
  readonly take: (folder: string) => Promise<Output>;
  readonly find: (digest: Digest) => Promise<Output | null>;
  /** Removes the outputs longest unused until the rest is within the limit. */
  readonly sweep: () => Promise<number>;
}

const noted = z.object({ files: z.number(), bytes: z.number(), plain: z.boolean().default(false) });
const listed = z.array(
  z.object({
    path: z.string(),
    digest: z.custom<Digest>(),
    sizeBytes: z.number(),
    executable: z.boolean().default(false),
  }),
);

/**
 * Opens the outputs below a folder, on the file system of the slots so that taking one in is a rename. `isLayered`: steps see
 * them below layers only.
 */
export async function openOutputStore(
  directory: string,
  store: FileStore,
  limitBytes: number,
  log: Logger,
  isLayered: boolean,
): Promise<OutputStore> {
  await mkdir(directory, { recursive: true, mode: 0o711 });
  const inUse = new Set<string>();

  const outputAt = (
    digest: Digest,
    { files, bytes, plain }: z.output<typeof noted>,
    known: readonly SealedFile[] | null = null,
  ): Output => {
    inUse.add(digest);
    return {
      digest,
      files,
      bytes,
      plain,
      root: join(directory, digest, 'folders'),
      folder: (place) => join(directory, digest, 'folders', String(place)),
      list: async () =>
        known ??
        listed.parse(JSON.parse(await readFile(join(directory, digest, 'list.json'), 'utf8'))),
    };
  };

  const find = async (digest: Digest): Promise<Output | null> => {
    const text = await readFile(join(directory, digest, 'noted.json'), 'utf8').catch(
      (error: NodeJS.ErrnoException) => {
        if (error.code === 'ENOENT') return null;
        throw error;
      },
    );
    if (text === null) return null;
    // What was sealed to be seen below layers cannot be shown where there are none any more.
    if (!isLayered && ((await stat(join(directory, digest))).mode & 0o011) === 0) return null;
    const now = new Date();
    await utimes(join(directory, digest), now, now);
    return outputAt(digest, noted.parse(JSON.parse(text)));
  };

  return {
    find,
    take: async (folder) => {
      const sealed = await store.seal(folder, isLayered ? 0o777 : 0o755);
      const known = await find(sealed.digest);
      if (known !== null) return known;
      // Made beside its place and renamed last: an output that is there is whole.
      const made = join(directory, `${sealed.digest}.${randomUUID()}`);
      // Below a layer nobody but root gets past it; what is mounted as it is, others must be able to reach.
      await mkdir(made, { mode: isLayered ? 0o700 : 0o711 });
      await rename(folder, join(made, 'folders'));
      await writeFile(join(made, 'list.json'), JSON.stringify(sealed.files));
      const { bytes, plain } = sealed;
      const note = { files: sealed.files.length, bytes, plain };
      await writeFile(join(made, 'noted.json'), JSON.stringify(note));
      await rename(made, join(directory, sealed.digest)).catch((error: NodeJS.ErrnoException) => {
        if (error.code !== 'ENOTEMPTY' && error.code !== 'EEXIST') throw error;
      });
      return outputAt(sealed.digest, note, sealed.files);
    },
    sweep: async () => {
      const names = await readdir(directory);
      const kept = await Promise.all(
        names.map(async (name) => {
          const text = await readFile(join(directory, name, 'noted.json'), 'utf8').catch(
            () => null,
          ); // Half made by a runner that died: it goes as the oldest.
          const { bytes } = text === null ? { bytes: 0 } : noted.parse(JSON.parse(text));
          const at = text === null ? 0 : (await stat(join(directory, name))).mtimeMs;
          return { name, bytes, at };
        }),
      );
      let sum = kept.reduce((all, one) => all + one.bytes, 0);
      let removed = 0;
      for (const one of kept.toSorted((a, b) => a.at - b.at)) {
        if (sum <= limitBytes && one.at > 0) break;
        if (inUse.has(one.name)) continue;
        await rm(join(directory, one.name), { recursive: true, force: true });
        sum -= one.bytes;
        removed += 1;
      }
      if (removed > 0) log.info({ removed, leftBytes: sum }, 'outputs swept');
      inUse.clear();
      return removed;
    },
  };
}
