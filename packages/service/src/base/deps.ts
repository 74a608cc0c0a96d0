import type { Digest, Instant, Manifest } from '@vaquero/core';
import type { LRUCache } from 'lru-cache';
import type { Logger } from 'pino';
import type { LogFollower } from '../audit/follow-log.ts';
import type { LogTopics } from '../builds/log-topics.ts';
import type { PagesTold } from '../comparisons/pages-told.ts';
import type { Db } from '../database/pool.ts';
import type { ReadingThreads } from '../evidence/reading-threads.ts';
import type { PassingNews } from '../news/passing-news.ts';
import type { Issuer } from '../people/elsewhere-issuer.ts';
import type { Mailer } from '../people/mailer.ts';
import type { EdgeStreams } from '../routing/edge-streams.ts';
import type { ApiConfig } from './config.ts';
import type { InstallationKeys } from './installation-keys.ts';

/** What the use cases of the api work with; made once in start.ts and passed as plain values. */
export interface Deps {
  readonly config: ApiConfig;
  readonly clock: () => Instant;
  readonly newId: () => string;
  /** Names this process among those of the installation. */
  readonly instance: string;
  readonly db: Db;
  readonly keys: InstallationKeys;
  /** Reads what stands in files of artifacts and in reports, in threads. */
  readonly reading: ReadingThreads;
  /** What pages of two artifacts say otherwise, as it was told lately: artifacts never change. */
  readonly comparisons: LRUCache<string, Promise<PagesTold>>;
  /** Manifests stored lately, by their digests. */
  readonly manifests: Map<Digest, Manifest>;
  readonly log: Logger;
  readonly follower: LogFollower;
  /** Where people may sign in instead; null where nowhere. */
  readonly issuer: Issuer | null;
  /** Null where no mail is sent. */
  readonly mailer: Mailer | null;
  readonly news: PassingNews;
  readonly logs: LogTopics;
  readonly edges: EdgeStreams;
  /** Edges that called lately, by the hashes of their tokens. */
  readonly knownEdges: Map<
    string,
    { readonly machine: { readonly id: string; readonly name: string }; readonly until: number }
  >;
  /** Wakes runners that wait for a build. */
  readonly queueNudge: Nudge;
  /** Lets runners that woke together choose one after another: each would choose the same build. */
  readonly claimTurn: InTurn;
}

/** Does pieces of work one after another, whatever becomes of each. */
export type InTurn = <T>(work: () => Promise<T>) => Promise<T>;

/** Makes a turn of its own. */
export function makeTurn(): InTurn {
  let last: Promise<unknown> = Promise.resolve();
  return (work) => {
    const next = last.then(work);
    last = next.catch(() => undefined); // Its caller hears of the failure; the next one must not wait on it.
    return next;
  };
}

/** Lets waiters wait for a call of `ring`, or for their time to pass. */
export interface Nudge {
  readonly ring: () => void;
  readonly wait: (ms: number, signal: AbortSignal) => Promise<void>;
}

/** Makes a nudge. A waiter returns at the next ring, when its time is over, or when its signal aborts. */
export function makeNudge(): Nudge {
  const waiters = new Set<() => void>();
  return {
    ring: () => {
      for (const wake of [...waiters]) wake();
    },
    wait: (ms, signal) =>
      new Promise((resolve) => {
        const wake = (): void => {
          waiters.delete(wake);
          clearTimeout(timer);
          signal.removeEventListener('abort', wake);
          resolve();
        };
        const timer = setTimeout(wake, ms);
        waiters.add(wake);
        if (signal.aborted) wake();
        else signal.addEventListener('abort', wake, { once: true });
      }),
  };
}
