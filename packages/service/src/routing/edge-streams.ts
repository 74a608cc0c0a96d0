import type { EdgeOrder } from '@vaquero/contracts';
import type { Digest } from '@vaquero/core';
import { coalescing } from '../base/coalesced.ts';
import type { TableOrder } from './routing-table.ts';

declare module '../base/deps.ts' {
  interface Deps {
    readonly edges: EdgeStreams;
  }
}

/** One connected edge. */
interface Stream {
  readonly name: string;
  readonly instance: string;
  readonly send: (order: EdgeOrder) => void;
  /** What it has confirmed. */
  revision: number;
  /** The revision of the table that this stream was told last; -1 for none. */
  told: number;
  /** The revision of the table that it knows, from this stream or one before; -1 for one that takes whole tables alone. */
  knows: number;
}

/** An edge that is connected, as far as the routing table goes. */
export type ToldEdge = Pick<Stream, 'told' | 'knows'>;

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
    /** The revision of the table that it knows already; null for one that takes no changes. */
    knows: number | null;
    send: (order: EdgeOrder) => void;
  }) => { readonly leave: () => void };
  readonly connected: () => readonly ToldEdge[];
  /** Tells a table to those of some connected edges that are still there. */
  readonly tell: (edges: readonly ToldEdge[], order: TableOrder) => void;
  /** Has the table told, one telling at a time. */
  readonly publish: (telling: () => Promise<number>) => Promise<number>;
  readonly names: () => readonly string[];
  /** What an edge that is connected here has confirmed; -1 for others. */
  readonly revisionOf: (edge: string) => number;
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

/** Makes the streams of one api process. */
export function makeEdgeStreams(): EdgeStreams {
  const streams = new Map<string, Stream>();
  const waiting = new Set<() => void>();
  const asked = new Map<string, (edge: string, problem: string | null) => void>();
  const wake = (): void => {
    for (const check of [...waiting]) check();
  };

  return {
    join: ({ name, instance, revision, knows, send }) => {
      const takesChanges = knows !== null;
      const stream: Stream = {
        name,
        instance,
        send: (order) => {
          if (order.order === 'table' || order.order === 'changes') {
            stream.told = order.table.revision;
            stream.knows = takesChanges ? stream.told : -1;
          }
          send(order);
        },
        revision,
        told: -1,
        knows: knows ?? -1,
      };
      streams.set(name, stream);
      return {
        leave: () => {
          if (streams.get(name) === stream) streams.delete(name);
          wake();
        },
      };
    },
    connected: () => [...streams.values()],
    tell: (edges, order) => {
      for (const stream of streams.values()) if (edges.includes(stream)) stream.send(order);
    },
    publish: coalescing(),
    names: () => [...streams.keys()],
    revisionOf: (edge) => streams.get(edge)?.revision ?? -1,
    prepare: (artifact, newId, withinMs) => {
      const edges = [...streams.values()];
      if (edges.length === 0) return Promise.resolve([]);
      const id = newId();
      return new Promise((resolve) => {
        const answers = new Map<string, string | null>();
        const finish = (): void => {
          clearTimeout(timer);
          asked.delete(id);
          resolve(
            edges.map(({ name }) => ({
              edge: name,
              problem: answers.get(name) ?? null,
              silent: !answers.has(name),
            })),
          );
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
