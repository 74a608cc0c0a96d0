import { readFileSync, type StatsFs, statfsSync } from 'node:fs';
import { statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import type { Limits } from '../config.ts';
import { shownLayers } from '../sources/step-layers.ts';
import type { ControlGroup } from './control-group.ts';
import { bytesIn } from './measure-folder.ts';
import { pidsOf, type Slot, type Workplace } from './slot.ts';

/** What a build used too much of, by its kind; the process count is only noted, the kernel refuses by itself. */
export type Overrun = { readonly kind: 'memory-limit' | 'disk-limit'; readonly limitBytes: number };

/** A watch over what a build uses. */
export interface Watch {
  /** Whether the build was seen at its limit of processes. */
  readonly sawProcessLimit: () => boolean;
  readonly stop: () => void;
}

const everyMs = 250;
/** The folders are counted as often as this whatever the file system says: what others remove hides what a build adds. */
const countEveryMs = 2_000;

/**
 * Watches memory, processes and disk of a build and calls `overrun` once when it takes too much. Counting
 * thousands of files competes with the build that makes them, so they are counted at once only when the
 * whole file system has grown by half of what the build may take.
 */
export function watchUse(
  slot: Slot,
  workplace: Workplace,
  limits: Limits,
  group: ControlGroup | null,
  overrun: (what: Overrun) => void,
): Watch {
  const stop = new AbortController();
  let atLimit = false;
  const memoryOver = (): boolean => {
    if (slot.uid === null) return false;
    const pids = pidsOf(slot.uid);
    atLimit ||= pids.length >= limits.processes * 0.9;
    return pids.reduce((sum, pid) => sum + anonymousBytes(pid), 0) > limits.memoryBytes;
  };
  // What a layer shows lies elsewhere; what is written to it is counted where it lies.
  const shown = [
    join(workplace.directory, shownLayers),
    ...(workplace.layer === null ? [] : [workplace.tree, join(workplace.directory, 'source')]),
  ];
  const places =
    workplace.committed === null ? [workplace.directory] : [workplace.directory, workplace.tree];
  const mayHaveGrown = growthOf(workplace.directory, limits.diskBytes / 2);
  const watch = async (): Promise<void> => {
    for (;;) {
      await pause(everyMs, undefined, { signal: stop.signal }).catch(() => undefined); // An abort only ends the wait.
      if (stop.signal.aborted) return;
      if ((await group?.ranOutOfMemory()) === true)
        overrun({ kind: 'memory-limit', limitBytes: limits.memoryBytes });
      if (memoryOver()) overrun({ kind: 'memory-limit', limitBytes: limits.memoryBytes });
      if (
        (await mayHaveGrown()) &&
        (await bytesInAll(places, limits.diskBytes, shown)) > limits.diskBytes
      )
        overrun({ kind: 'disk-limit', limitBytes: limits.diskBytes });
    }
  };
  void watch();
  return { sawProcessLimit: () => atLimit, stop: () => stop.abort() };
}

async function bytesInAll(
  places: readonly string[],
  enough: number,
  shown: readonly string[],
): Promise<number> {
  let sum = 0;
  for (const place of places) sum += await bytesIn(place, enough - sum, shown);
  return sum;
}

/** Tells whether the folder is due to be counted: the file system grew by as much as `bytes`, or it was long ago. */
function growthOf(directory: string, bytes: number): () => Promise<boolean> {
  let counted = performance.now();
  const usedThen = usedOf(statfsSync(directory));
  return async () => {
    const now = await statfs(directory).catch((error: NodeJS.ErrnoException) => {
      // The build has ended, and its folder was moved away, since this turn began.
      if (error.code === 'ENOENT') return null;
      throw error;
    });
    if (now === null) return false;
    const isDue = usedOf(now) - usedThen > bytes || performance.now() - counted > countEveryMs;
    if (isDue) counted = performance.now();
    return isDue;
  };
}

function usedOf({ blocks, bfree, bsize }: StatsFs): number {
  return (blocks - bfree) * bsize;
}

function anonymousBytes(pid: number): number {
  try {
    return (
      Number(/^RssAnon:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) *
      1024
    );
  } catch {
    // The process ended meanwhile and holds nothing any more.
    return 0;
  }
}
