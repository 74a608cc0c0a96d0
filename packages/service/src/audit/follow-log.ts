import { setTimeout as pause } from 'node:timers/promises';
import { type ReadEntry, traitsOf } from '@vaquero/core';
import type { Logger } from 'pino';
import { coalesced } from '../base/coalesced.ts';
import type { Db } from '../database/pool.ts';
import { entriesBetween, headPosition } from './log-entry-rows.ts';
import { whenDecided } from './record.ts';

declare module '../base/deps.ts' {
  interface Deps {
    readonly follower: LogFollower;
  }
}

/** What other processes decided is found out after this long at most. */
const lookEveryMs = 250;
const mostAtOnce = 500;
const longestBackOffMs = 5_000;

/**
 * Follows the log: whoever listens is told every decision once, in the one order, whichever process made it.
 * Positions follow the order of commits and have no gaps, so nothing that comes late stands before what was read.
 */
export interface LogFollower {
  /** How far it has read, and where the newest decision stands that changed what edges answer. */
  readonly seen: () => { readonly position: number; readonly routing: number };
  readonly listen: (listener: (entry: ReadEntry) => void) => () => void;
  /** Waits until all is read that was committed when it was called. */
  readonly catchUp: () => Promise<void>;
  readonly stop: () => Promise<void>;
}

/** Begins to follow the log from its end. */
export async function followLog(db: Db, log: Logger): Promise<LogFollower> {
  let position = await headPosition(db);
  let routing = position;
  const listeners = new Set<(entry: ReadEntry) => void>();
  const stop = new AbortController();

  const read = async (): Promise<void> => {
    for (;;) {
      const entries = await entriesBetween(db, position, Number.MAX_SAFE_INTEGER, mostAtOnce);
      for (const entry of entries) {
        position = entry.position;
        if (traitsOf(entry.kind).routing) routing = entry.position;
        for (const listener of [...listeners]) listener(entry);
      }
      if (entries.length < mostAtOnce) return;
    }
  };
  const reading = coalesced(read);
  let failures = 0;
  const turn = (): Promise<void> =>
    reading.run().then(
      () => {
        failures = 0;
      },
      (err: unknown) => {
        failures += 1;
        if (failures === 1 && !stop.signal.aborted) log.warn({ err }, 'the log cannot be followed');
      },
    );
  const quit = whenDecided(db, () => void turn());
  const loop = (async () => {
    while (!stop.signal.aborted) {
      await turn();
      const waitMs = Math.min(longestBackOffMs, lookEveryMs * 2 ** Math.min(failures, 5));
      await pause(waitMs, undefined, { signal: stop.signal }).catch(() => undefined); // An abort only ends the wait.
    }
  })();

  return {
    seen: () => ({ position, routing }),
    listen: (listener) => {
      listeners.add(listener);
      return () => void listeners.delete(listener);
    },
    catchUp: reading.run,
    stop: async () => {
      quit();
      stop.abort();
      await loop;
      await reading.settled();
    },
  };
}
