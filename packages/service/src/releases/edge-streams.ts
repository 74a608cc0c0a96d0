import type { EdgeOrder } from '@vaquero/contracts';
import type { Digest } from '@vaquero/core';
import type { ReadTable } from './publish-table.ts';
import { tableChanges } from './table-changes.ts';

/** One connected edge. */
interface Stream {
  readonly name: string;
  readonly instance: string;
  readonly send: (order: EdgeOrder) => void;
  revision: number;
}

/** How an edge answered an order to prepare; `problem` null means that it has manifest and blobs. */
export interface Prepared {
  readonly edge: string;
  readonly problem: string | null;
  readonly silent: boolean;
}

/** The edges that hold a stream of orders to this api process. */
export interface EdgeStreams {
  /** Joins an edge's stream, on which it is told orders until it leaves. */
  readonly join: (edge: {
    name: string;
    instance: string;
    revision: number;
    /** Whether it takes tables by their changes. */
    knowsChanges: boolean;
    send: (order: EdgeOrder) => void;
  }) => { readonly tell: (order: EdgeOrder) => void; readonly leave: () => void };
  /** The newest table that was read. */
  readonly last: {
    read: ReadTable | null;
    /** Up to which position it was looked whether other processes changed it. */
    checked: number;
  };
  readonly names: () => readonly string[];
  /** What an edge that is connected here has confirmed; -1 for others. */
  readonly revisionOf: (edge: string) => number;
  readonly broadcast: (order: EdgeOrder) => void;
  /** Orders every edge to prepare an artifact and gathers the answers; an edge that says nothing in time is silent. */
  readonly prepare: (
    artifact: Digest,
    newId: () => string,
    withinMs: number,
  ) => Promise<readonly Prepared[]>;
  readonly answered: (edge: string, id: string, problem: string | null) => void;
  /** Notes that an edge has a revision on disk and answered with it; says whether a move here waited for it. */
  readonly noteConfirmed: (edge: string, instance: string, revision: number) => boolean;
  /** Waits until every edge has confirmed a revision; returns those that have not within the time. */
  readonly confirmed: (revision: number, withinMs: number) => Promise<readonly string[]>;
}

/** A build's artifact is prepared while it is inspected, and goes live right behind that. */
const readyForMs = 5_000;
const mostReady = 16;

/** Remembers which edges, by instance, said a moment ago that they have all of an artifact. */
function makeReadiness() {
  const said = new Map<Digest, Map<string, number>>();
  return {
    isLately: (artifact: Digest, instance: string): boolean =>
      (said.get(artifact)?.get(instance) ?? Number.NEGATIVE_INFINITY) >
      performance.now() - readyForMs,
    note: (artifact: Digest, edges: readonly Stream[]): void => {
      const known = said.get(artifact) ?? new Map<string, number>();
      for (const { instance } of edges) known.set(instance, performance.now());
      said.delete(artifact);
      said.set(artifact, known);
      for (const [oldest] of said) {
        if (said.size <= mostReady) break;
        said.delete(oldest);
      }
    },
  };
}

/** Tells tables by what is another thing than in the one before, as far as the edge takes that. */
function tellsOnce(
  knowsChanges: boolean,
  send: (order: EdgeOrder) => void,
): (order: EdgeOrder) => void {
  let sent: Extract<EdgeOrder, { order: 'table' }> | null = null;
  return (order) => {
    if (order.order !== 'table') {
      send(order);
      return;
    }
    const before = sent;
    sent = order;
    if (before !== null && knowsChanges) send(tableChanges(before, order));
    // A move changes no artifact: their list is sent once for all tables that mean it.
    else send(before?.list === order.list ? { ...order, artifacts: null } : order);
  };
}

/** Makes the streams of one api process. */
export function makeEdgeStreams(): EdgeStreams {
  const streams = new Map<string, Stream>();
  const waiting = new Set<() => void>();
  const asked = new Map<string, (edge: string, problem: string | null) => void>();
  const ready = makeReadiness();
  const wake = (): void => {
    for (const check of [...waiting]) check();
  };

  return {
    last: { read: null, checked: -1 },
    join: ({ name, instance, revision, knowsChanges, send }) => {
      const tell = tellsOnce(knowsChanges, send);
      const stream: Stream = { name, instance, send: tell, revision };
      streams.set(name, stream);
      const leave = (): void => {
        if (streams.get(name) === stream) streams.delete(name);
        wake();
      };
      return { tell, leave };
    },
    names: () => [...streams.keys()],
    revisionOf: (edge) => streams.get(edge)?.revision ?? -1,
    broadcast: (order) => {
      for (const stream of streams.values()) stream.send(order);
    },
    prepare: (artifact, newId, withinMs) => {
      const all = [...streams.values()];
      // Whoever said a moment ago that it has all of it need not be asked again.
      const isReady = (edge: Stream): boolean => ready.isLately(artifact, edge.instance);
      const edges = all.filter((edge) => !isReady(edge));
      const others = all
        .filter(isReady)
        .map(({ name }) => ({ edge: name, problem: null, silent: false }));
      if (edges.length === 0) return Promise.resolve(others);
      const id = newId();
      return new Promise((resolve) => {
        const answers = new Map<string, string | null>();
        const finish = (): void => {
          clearTimeout(timer);
          asked.delete(id);
          const told = edges.map(({ name }) => ({
            edge: name,
            problem: answers.get(name) ?? null,
            silent: !answers.has(name),
          }));
          ready.note(
            artifact,
            edges.filter(({ name }) => answers.get(name) === null),
          );
          resolve([...told, ...others]);
        };
        const timer = setTimeout(finish, withinMs);
        asked.set(id, (edge, problem) => {
          answers.set(edge, problem);
          if (edges.every(({ name }) => answers.has(name))) finish();
        });
        for (const edge of edges) edge.send({ order: 'prepare', id, artifact });
      });
    },
    answered: (edge, id, problem) => asked.get(id)?.(edge, problem),
    noteConfirmed: (edge, instance, revision) => {
      const stream = streams.get(edge);
      if (stream !== undefined && stream.instance === instance)
        stream.revision = Math.max(stream.revision, revision);
      const awaited = waiting.size > 0;
      wake();
      return awaited;
    },
    confirmed: (revision, withinMs) =>
      new Promise((resolve) => {
        const behind = (): string[] =>
          [...streams.values()]
            .filter((stream) => stream.revision < revision)
            .map((stream) => stream.name);
        const finish = (): void => {
          waiting.delete(check);
          clearTimeout(timer);
          resolve(behind());
        };
        const check = (): void => {
          if (behind().length === 0) finish();
        };
        const timer = setTimeout(finish, withinMs);
        waiting.add(check);
        check();
      }),
  };
}
