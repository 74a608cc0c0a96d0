import { createInterface } from 'node:readline';
import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { setTimeout as pause } from 'node:timers/promises';
import { type Client, type EdgeOrder, roleRoutes } from '@vaquero/contracts';
import { manifestFormats } from '@vaquero/core';
import type { Logger } from 'pino';
import type { Reach } from './reach.ts';
import { isTable, TableUnknown } from './take-orders.ts';

/** What the stream of orders needs of the edge. */
export interface OrderTaker {
  readonly client: Client;
  readonly instance: string;
  /** The revision of the table on disk, and that of the one which it was told last. */
  readonly revision: () => number;
  readonly knows: () => number;
  readonly take: (order: EdgeOrder) => Promise<void>;
  readonly log: Logger;
  readonly signal: AbortSignal;
  readonly reach: Pick<Reach, 'note'>;
  /** Told when a table has come. */
  readonly first: (reached: true) => void;
}

const silentMs = 10_000;

/** The api does not know our token, or not any more. */
class TokenRefused extends Error {
  override readonly name = 'TokenRefused';
}

/** Holds a stream of orders to the api, joined again whenever it ends, until the signal aborts. */
export async function followOrders(taker: OrderTaker): Promise<void> {
  let failures = 0;
  while (!taker.signal.aborted) {
    try {
      await followOnce(taker);
      failures = 0;
    } catch (err) {
      if (taker.signal.aborted) return;
      taker.reach.note(true);
      failures += 1;
      if (err instanceof TokenRefused && failures === 1)
        taker.log.error(
          'the api does not know the token of this edge: it was taken back, or is another installation’s; serving goes on from the copy',
        );
      else if (failures === 3)
        taker.log.warn({ err }, 'the api does not answer; serving goes on from the copy');
    }
    await pause(Math.min(1_000, 50 * 2 ** failures), undefined, { signal: taker.signal }).catch(
      () => undefined,
    ); // An abort only ends the wait.
  }
}

async function followOnce({
  client,
  instance,
  revision,
  knows,
  take,
  log,
  signal,
  reach,
  first,
}: OrderTaker): Promise<void> {
  const quiet = new AbortController();
  let timer = setTimeout(() => quiet.abort(), silentMs);
  const response = await fetch(
    `${client.address}/role/orders?instance=${instance}&revision=${revision()}&knows=${knows()}&closed=known&formats=${manifestFormats.join(',')}`,
    {
      headers: client.headers,
      signal: AbortSignal.any([signal, quiet.signal]),
    },
  );
  if (response.status === 401) {
    await response.body?.cancel();
    throw new TokenRefused('orders were answered with HTTP 401');
  }
  if (!response.ok || response.body === null)
    throw new Error(`orders were answered with HTTP ${response.status}`);
  const lines = createInterface({
    input: Readable.fromWeb(response.body as ReadableStream),
    crlfDelay: Number.POSITIVE_INFINITY,
  });
  try {
    for await (const text of lines) {
      clearTimeout(timer);
      timer = setTimeout(() => quiet.abort(), silentMs);
      reach.note(false);
      const read = roleRoutes.edgeOrder.safeParse(JSON.parse(text));
      if (!read.success) {
        log.error({ issues: read.error.issues.slice(0, 3) }, 'an order is not understood');
        continue;
      }
      // Orders are taken side by side: a preparation must not wait behind the writing of a table.
      void take(read.data).then(
        () => {
          if (isTable(read.data)) first(true);
        },
        (err: unknown) => {
          log.error({ err, order: read.data.order }, 'order failed');
          if (err instanceof TableUnknown) quiet.abort();
        },
      );
    }
  } finally {
    clearTimeout(timer);
    lines.close();
  }
}
