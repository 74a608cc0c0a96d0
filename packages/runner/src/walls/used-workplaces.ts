import { mkdir, readdir, rename, statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { execa } from 'execa';
import type { Logger } from 'pino';

/** Workplaces that are no longer used, waiting for a quiet moment to be removed. */
export interface UsedWorkplaces {
  readonly directory: string;
  /** Takes a workplace away from its slot, at once and whatever its size. */
  readonly take: (directory: string, name: string) => Promise<void>;
  /** Removes what waits, oldest first, while the disk is short of room; a build that begins waits for it. */
  readonly makeRoom: () => Promise<void>;
  /** Tells that a build begins (1) or has ended (-1). */
  readonly building: (change: 1 | -1) => void;
  /** Stops removing; what is left goes at the next start. */
  readonly stop: () => Promise<void>;
}

const quietMs = 15_000;
const mostKept = 16;
const leastFree = 0.1;

/**
 * Keeps used workplaces aside and removes them when no build has run for a while. Removing a tree of
 * thousands of files takes longer than many builds, competes with the next one for the disk, and makes
 * the creation of files several times slower for minutes on some file systems (measured on ext4 without
 * a journal). Bounded: beyond sixteen, or on a disk that runs full, the oldest goes at once.
 */
export async function openUsedWorkplaces(directory: string, log: Logger): Promise<UsedWorkplaces> {
  await mkdir(directory, { recursive: true, mode: 0o700 });
  const waiting = (await readdir(directory)).map((name) => join(directory, name));
  const stop = new AbortController();
  let running = 0;
  let quietSince = performance.now();

  const isShort = async (): Promise<boolean> => {
    const { bavail, blocks } = await statfs(directory);
    return bavail / blocks < leastFree;
  };
  const isDue = async (): Promise<boolean> => {
    if (waiting.length > mostKept) return true;
    if (running === 0 && performance.now() - quietSince > quietMs) return true;
    return waiting.length > 0 && isShort();
  };
  // A process that comes last in line for the processors: thousands of files removed by this one hold up whoever
  // moves an environment or visits a site of this machine.
  // rm(1) goes by descriptors: no depth is too deep for it, and no link leads it elsewhere.
  const removeNow = async (one: string): Promise<void> => {
    const end = await execa('nice', ['-n', '19', 'rm', '-rf', '--', one], {
      env: { LC_ALL: 'C' },
      reject: false,
    });
    if (end.exitCode !== 0)
      log.warn({ place: one, said: end.stderr.slice(0, 500) }, 'what a build left stays for now');
  };
  const underWay = new Set<Promise<void>>();
  const remove = async (one: string): Promise<void> => {
    const removal = removeNow(one);
    underWay.add(removal);
    await removal.finally(() => underWay.delete(removal));
  };
  const removing = (async () => {
    while (!stop.signal.aborted) {
      const oldest = (await isDue()) ? waiting.shift() : undefined;
      if (oldest === undefined)
        await pause(1000, undefined, { signal: stop.signal }).catch(() => undefined); // An abort only ends the wait.
      else await remove(oldest);
    }
  })().catch((err: unknown) => log.error({ err }, 'used workplaces are no longer removed'));

  return {
    directory,
    take: async (from, name) => {
      const to = join(directory, name);
      await rename(from, to);
      waiting.push(to);
    },
    makeRoom: async () => {
      while (await isShort()) {
        const oldest = waiting.shift();
        if (oldest !== undefined) await remove(oldest);
        // What somebody else removes makes room as well.
        else if (underWay.size > 0) await Promise.all(underWay);
        else return;
      }
    },
    building: (change) => {
      running += change;
      quietSince = performance.now();
    },
    stop: async () => {
      stop.abort();
      await removing;
    },
  };
}
