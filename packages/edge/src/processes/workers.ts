import cluster, { type Worker } from 'node:cluster';
import { setTimeout as pause } from 'node:timers/promises';
import type { RoutingTable } from '@vaquero/contracts';
import type { Logger } from 'pino';
import type { NameAnswer } from '../routing/artifact-names.ts';
import type { LiveTable } from '../routing/live-table.ts';
import type { Reach } from '../routing/reach.ts';
import type { Serving } from '../serving/answer.ts';
import type { Front } from '../serving/front.ts';
import type { Visits } from '../serving/visits.ts';
import type { Asked, ToParent, ToWorker } from './messages.ts';

/** What processes that answer visitors need of the first one, which alone speaks with the api and writes to the disk. */
export interface WorkersOptions extends Pick<Serving, 'bring' | 'mend'> {
  readonly table: LiveTable;
  readonly visits: Visits;
  readonly reach: Reach;
  readonly fetchName: (host: string) => Promise<NameAnswer>;
  readonly many: number;
  readonly log: Logger;
}

/** A front of several processes on one port, and the table that they share. */
export interface Workers {
  readonly front: Front;
  /** The same table; what is put in force here is in force there. */
  readonly table: LiveTable;
}

/** One of the processes, as far as the first one knows it. */
interface Known {
  readonly worker: Worker;
  port: number | null;
  revision: number;
}

const anewAfterMs = 500;
const stopWithinMs = 3_000;
const adoptWithinMs = 5_000;

/** Makes the processes; one that ends is made anew. A table is answered with once all of them answer with it. */
export function makeWorkers(options: WorkersOptions): Workers {
  const crew = makeCrew(options);
  return { front: frontOf(crew, options), table: sharedTable(crew, options.table) };
}

/** The processes that there are now. */
interface Crew {
  readonly all: ReadonlySet<Known>;
  readonly start: () => void;
  /** Tells all of them a table and the service's key, and those that are made anew. */
  readonly share: (told: { table?: RoutingTable; lookKey?: string }) => void;
  /** From now on none is made anew; each is told to end. */
  readonly end: () => void;
  /** Settles when something holds of them. */
  readonly until: (holds: () => boolean) => Promise<void>;
}

function makeCrew(options: WorkersOptions): Crew {
  const { visits, log, reach } = options;
  const all = new Set<Known>();
  const { wake, until } = makeWaits();
  let newest: RoutingTable | null = null;
  let lookKey: string | null = null;
  let isEnding = false;
  const sendTable = (known: Known): void => {
    if (newest === null) return;
    tell(known, { say: 'table', table: newest, lookKey });
  };
  const hear = (known: Known, message: ToParent): void => {
    if (message.say === 'listens') known.port = message.port;
    else if (message.say === 'adopted') known.revision = message.revision;
    else if (message.say === 'counted') visits.add(message.rows);
    else void fetchFor(options, known, message);
    wake();
  };
  const start = (): void => {
    const known: Known = { worker: cluster.fork(), port: null, revision: -1 };
    all.add(known);
    known.worker.on('message', (message: ToParent) => hear(known, message));
    known.worker.on('online', () => {
      tell(known, { say: 'reach', isAway: reach.isAway() });
      sendTable(known);
    });
    known.worker.on('exit', (code, signal) => {
      all.delete(known);
      wake();
      if (isEnding) return;
      log.error({ code, signal }, 'a process of the edge ended, and is made anew');
      setTimeout(() => {
        if (!isEnding) start();
      }, anewAfterMs);
    });
  };
  reach.listen((isAway) => {
    for (const known of all) tell(known, { say: 'reach', isAway });
  });
  return {
    all,
    start,
    until,
    share: (told) => {
      // The key comes with every table, and is mostly the one that is known.
      if (told.table === undefined && told.lookKey === lookKey) return;
      newest = told.table ?? newest;
      lookKey = told.lookKey ?? lookKey;
      for (const known of all) sendTable(known);
    },
    end: () => {
      isEnding = true;
      for (const known of all) tell(known, { say: 'stop' });
    },
  };
}

/** Lets waits be settled by whatever changes. */
function makeWaits() {
  const waiting = new Set<() => void>();
  return {
    wake: (): void => {
      for (const check of [...waiting]) check();
    },
    until: (holds: () => boolean): Promise<void> =>
      new Promise((resolve) => {
        const check = (): void => {
          if (!holds()) return;
          waiting.delete(check);
          resolve();
        };
        waiting.add(check);
        check();
      }),
  };
}

function sharedTable(crew: Crew, table: LiveTable): LiveTable {
  return {
    ...table,
    // A beat says it too, and a move counts as confirmed by it: a process that lags behind must show.
    onDisk: () => Math.min(table.onDisk(), ...listening(crew).map(({ revision }) => revision)),
    letLook: (lookKey) => {
      table.letLook(lookKey);
      crew.share({ lookKey });
    },
    adopt: (next) => {
      if (next.revision > table.revision()) crew.share({ table: next });
      return table.adopt(next);
    },
  };
}

/** Those that answer visitors already. */
function listening({ all }: Pick<Crew, 'all'>): readonly Known[] {
  return [...all].filter(({ port }) => port !== null);
}

function frontOf({ all, start, end, until }: Crew, { table, many }: WorkersOptions): Front {
  const portOf = (): number => listening({ all })[0]?.port ?? 0;
  return {
    listen: async () => {
      for (let n = 0; n < many; n += 1) start();
      await until(() => portOf() !== 0 || all.size < many);
      if (portOf() !== 0) return;
      end();
      throw new Error('a process of the edge could not start; its log says why');
    },
    port: portOf,
    revision: () => {
      if (all.size === 0) return null;
      const wanted = table.revision();
      const isIn = (): boolean => [...all].every(({ revision }) => revision >= wanted);
      // One that says nothing keeps the move from being confirmed, and not the next order from being taken.
      return Promise.race([until(isIn), pause(adoptWithinMs)]).then(() =>
        all.size === 0 ? -1 : Math.min(...[...all].map(({ revision }) => revision)),
      );
    },
    close: async () => {
      end();
      await Promise.race([until(() => all.size === 0), pause(stopWithinMs)]);
      for (const { worker } of all) worker.process.kill('SIGKILL');
      await until(() => all.size === 0);
    },
  };
}

function tell({ worker }: Known, message: ToWorker): void {
  // One that is ending hears nothing any more; what is made in its place hears it all.
  if (worker.isConnected()) worker.send(message, () => undefined);
}

/** Fetches what a process asks for: two that ask for the same at once must not write the same files. */
async function fetchFor(options: WorkersOptions, known: Known, asked: Asked): Promise<void> {
  const { id } = asked;
  try {
    if (asked.say === 'name') {
      const answer = await options.fetchName(asked.host);
      return tell(known, { say: 'named', id, answer });
    }
    await options[asked.say]?.(asked.artifact);
    tell(known, { say: 'done', id, why: null });
  } catch (error) {
    tell(known, { say: 'done', id, why: String(error) });
  }
}
