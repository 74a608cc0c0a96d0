import { setTimeout as pause } from 'node:timers/promises';
import { type Client, roleRoutes } from '@vaquero/contracts';
import type { Logger } from 'pino';
import type { Bringer } from './blobs/bring-blobs.ts';
import type { Compressed } from './blobs/compressed.ts';
import type { LiveTable } from './routing/live-table.ts';
import type { Visits } from './serving/visits.ts';

const beatEveryMs = 2_000;
const lastWordMs = 1_000;
const sweepEveryMs = 3_600_000;
/** What was brought or compressed and is served no more stays for so long, for a rollback or a person who looks. */
const keptMs = 24 * 3_600_000;

/** What an edge tells of itself every two seconds, and to whom. */
export interface Beating {
  readonly client: Client;
  readonly instance: string;
  readonly table: LiveTable;
  readonly visits: Visits;
  readonly signal: AbortSignal;
}

/** Tells the service that this edge is there, what it has, and what visitors asked for, until it is stopped; once more then. */
export async function beat({ client, instance, table, visits, signal }: Beating): Promise<void> {
  const tell = async (): Promise<void> => {
    const figures = visits.batch();
    const body = { instance, revision: table.onDisk(), figures };
    await client.call(roleRoutes.edgeBeatRoute, { body });
    if (figures !== null) visits.taken(figures.number);
  };
  while (!signal.aborted) {
    await tell().catch(() => undefined); // A beat that is missed is what makes an edge silent; the order stream logs the cause.
    await pause(beatEveryMs, undefined, { signal }).catch(() => undefined); // An abort only ends the wait.
  }
  // What was counted since the last beat goes with this instance; a service that is away is not waited for.
  const lastWord = tell().catch(() => undefined); // Nobody is there to hear it: those figures are lost, as decision 0025 says.
  await Promise.race([lastWord, pause(lastWordMs)]);
}

/** What an edge keeps on its disk beside its table. */
export interface Swept {
  readonly signal: AbortSignal;
  /** Null where the store is shared, and swept by the service. */
  readonly bringer: Bringer | null;
  readonly compressed: Compressed;
  readonly table: LiveTable;
  readonly log: Logger;
}

/** Removes once an hour what nothing serves any more, until it is stopped. */
export async function sweepHourly({
  signal,
  bringer,
  compressed,
  table,
  log,
}: Swept): Promise<void> {
  for (;;) {
    await pause(sweepEveryMs, undefined, { signal }).catch(() => undefined); // An abort only ends the wait.
    if (signal.aborted) return;
    await Promise.all([
      bringer?.sweep(table.served(), keptMs) ?? 0,
      compressed.sweep(table.servedFiles(), keptMs),
    ]).then(
      ([blobs, forms]) => log.info({ blobs, forms }, 'what nothing serves was removed'),
      (err: unknown) => log.error({ err }, 'what nothing serves was not removed'),
    );
  }
}
