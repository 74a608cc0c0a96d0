import { createHash } from 'node:crypto';
import { chown, mkdir, readdir, stat, utimes } from 'node:fs/promises';
import { join } from 'node:path';
import { execa } from 'execa';
import type { Logger } from 'pino';
import { bytesIn } from '../walls/measure-folder.ts';
import type { Slot } from '../walls/slot.ts';

/** Folders of a build's home that are kept between builds of one project. */
export interface Caches {
  /** The host's folder of a cache, made if it is not there. */
  readonly folder: (project: string, circle: string, path: string, slot: Slot) => Promise<string>;
  /** Removes the caches longest unused until the rest is within the limit; those in use are left. */
  readonly sweep: () => Promise<number>;
}

/**
 * Opens the caches. Each belongs to one project, one circle of builds that trust each other, one path and the uid of
 * one slot: a build can poison no other project's, an outsider's none that a trusted build reads, and what one slot
 * wrote need not change its owner for another.
 */
export async function openCaches(
  directory: string,
  limitBytes: number,
  log: Logger,
): Promise<Caches> {
  await mkdir(directory, { recursive: true, mode: 0o711 });
  return {
    folder: async (project, circle, path, slot) => {
      const name = createHash('sha256')
        .update(`${project}\n${circle}\n${path}\n${slot.uid ?? ''}`)
        .digest('hex');
      const folder = join(directory, name);
      await mkdir(folder, { recursive: true, mode: 0o700 });
      if (slot.uid !== null) await chown(folder, slot.uid, slot.uid);
      const now = new Date();
      await utimes(folder, now, now);
      return folder;
    },
    sweep: async () => {
      const kept = await Promise.all(
        (await readdir(directory)).map(async (name) => ({
          name,
          bytes: await bytesIn(join(directory, name), Number.POSITIVE_INFINITY),
          at: (await stat(join(directory, name))).mtimeMs,
        })),
      );
      // One that cannot be counted is over any limit: it goes, and takes nothing along.
      const counted = kept.filter((one) => Number.isFinite(one.bytes));
      const without = kept.filter((one) => !Number.isFinite(one.bytes));
      let sum = counted.reduce((all, one) => all + one.bytes, 0);
      let removed = 0;
      for (const one of [...without, ...counted.toSorted((a, b) => a.at - b.at)]) {
        if (Number.isFinite(one.bytes) && sum <= limitBytes) break;
        // rm(1) goes by descriptors: what a build left there is neither too deep for it nor leads it elsewhere.
        await execa('rm', ['-rf', '--', join(directory, one.name)], { env: { LC_ALL: 'C' } });
        if (Number.isFinite(one.bytes)) sum -= one.bytes;
        removed += 1;
      }
      if (removed > 0) log.info({ removed, leftBytes: sum }, 'caches swept');
      return removed;
    },
  };
}
