import type { Digest, Instant, Manifest } from '@vaquero/core';
import type { Logger } from 'pino';
import type { ApiConfig } from './config.ts';
import type { Db } from './database/pool.ts';
import type { FactsReader } from './evidence/facts-reader.ts';
import type { ProjectEvents } from './http/project-events.ts';
import type { InstallationKeys } from './installation-keys.ts';
import type { EdgeStreams } from './releases/edge-streams.ts';

/** What the use cases of the api work with; made once in start.ts and passed as plain values. */
export interface Deps {
  readonly config: ApiConfig;
  readonly clock: () => Instant;
  readonly newId: () => string;
  readonly db: Db;
  readonly keys: InstallationKeys;
  /** Reads what stands in files of artifacts, in a thread. */
  readonly facts: FactsReader;
  /** Manifests stored lately, by their digests. */
  readonly manifests: Map<Digest, Manifest>;
  /** What commits hold, as it was read lately. */
  readonly log: Logger;
  readonly events: ProjectEvents;
  readonly edges: EdgeStreams;
  /** Edges that called lately, by the hashes of their tokens. */
  readonly knownEdges: Map<
    string,
    { readonly machine: { readonly id: string; readonly name: string }; readonly until: number }
  >;
  /** Wakes runners that wait for a build. */
  readonly queueNudge: Nudge;
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
