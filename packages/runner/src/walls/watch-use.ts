import { readFileSync } from 'node:fs';
import { lstat, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import type { Limits } from '../config.ts';
import type { ControlGroup } from './control-group.ts';
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

/** Watches memory, processes and disk of a build and calls `overrun` once when it takes too much. */
export function watchUse(
  slot: Slot,
  workplace: Workplace,
  limits: Limits,
  group: ControlGroup | null,
  overrun: (what: Overrun) => void,
): Watch {
  const stop = new AbortController();
  let atLimit = false;
  const watch = async (): Promise<void> => {
    while (!stop.signal.aborted) {
      if ((await group?.ranOutOfMemory()) === true)
        overrun({ kind: 'memory-limit', limitBytes: limits.memoryBytes });
      if (slot.uid !== null) {
        const pids = pidsOf(slot.uid);
        atLimit ||= pids.length >= limits.processes * 0.9;
        if (pids.reduce((sum, pid) => sum + anonymousBytes(pid), 0) > limits.memoryBytes)
          overrun({ kind: 'memory-limit', limitBytes: limits.memoryBytes });
      }
      if ((await bytesIn(workplace.directory, limits.diskBytes)) > limits.diskBytes)
        overrun({ kind: 'disk-limit', limitBytes: limits.diskBytes });
      await pause(everyMs, undefined, { signal: stop.signal }).catch(() => undefined); // An abort only ends the wait.
    }
  };
  void watch();
  return { sawProcessLimit: () => atLimit, stop: () => stop.abort() };
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

/** Bytes on disk below a folder; stops counting behind `enough`. Files that vanish meanwhile count nothing. */
export async function bytesIn(directory: string, enough: number): Promise<number> {
  let sum = 0;
  const open = [directory];
  for (let at = open.pop(); at !== undefined && sum * 512 <= enough; at = open.pop()) {
    const entries = await readdir(at, { withFileTypes: true }).catch(() => []);
    for (const entry of entries) {
      const path = join(at, entry.name);
      if (entry.isDirectory()) open.push(path);
      else sum += (await lstat(path).catch(() => undefined))?.blocks ?? 0;
    }
    // lstat counts blocks of 512 bytes; a sparse file counts what it really takes.
  }
  return sum * 512;
}
