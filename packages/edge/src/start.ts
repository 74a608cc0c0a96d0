import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { mkdir } from 'node:fs/promises';
import { Agent, createServer, request } from 'node:http';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { type EdgeOrder, makeClient, roleRoutes } from '@vaquero/contracts';
import type { Logger } from 'pino';
import { makeCompressed } from './blobs/compressed.ts';
import { makeMemory } from './blobs/memory.ts';
import type { EdgeConfig } from './config.ts';
import { openLiveTable } from './routing/live-table.ts';
import { followOrders } from './routing/order-stream.ts';
import { answer } from './serving/answer.ts';

/** A running edge. */
export interface RunningEdge {
  readonly port: number;
  readonly stop: () => Promise<void>;
}

/** What differs between the service and what drives it in one process with a clock of its own. */
export interface EdgeOptions {
  readonly config: EdgeConfig;
  readonly log: Logger;
  readonly clock?: () => number;
}

const askApiFirstMs = 2_000;
const beatEveryMs = 2_000;
const healthHost = 'edge.health';

/**
 * Starts the edge role: asks the api for the table first, for two seconds at most, then serves from its
 * own copy and says so in its log.
 */
export async function startEdge({
  config,
  log,
  clock = Date.now,
}: EdgeOptions): Promise<RunningEdge> {
  const directory = join(config.stateDirectory, 'edge');
  const store = join(config.stateDirectory, 'store');
  await mkdir(directory, { recursive: true });
  const table = await openLiveTable(store, directory);
  const compressed = makeCompressed(store, join(directory, 'compressed'), log);
  const serving = { table, store, memory: makeMemory(config.memoryBytes), compressed, clock, log };
  const client = makeClient({
    address: config.api,
    headers: { authorization: `Bearer ${config.token}` },
  });
  const instance = randomUUID();
  const stop = new AbortController();
  const agent = new Agent({ keepAlive: true, maxSockets: 4 });
  const server = createServer(
    { keepAliveTimeout: 30_000, requestTimeout: 30_000, headersTimeout: 10_000 },
    (req, res) => {
      if (req.headers.host === healthHost) {
        res.writeHead(200, {
          'content-type': 'application/json',
          'vaquero-revision': String(table.revision()),
        });
        res.end(JSON.stringify({ role: 'edge', ok: true, revision: table.revision() }));
        return;
      }
      void answer(serving, req, res);
    },
  );

  async function take(order: EdgeOrder): Promise<void> {
    if (order.order === 'prepare') {
      await client.call(roleRoutes.edgeAnswerRoute, {
        body: { id: order.id, problem: table.prepare(order.artifact) },
      });
    } else if (order.order === 'table') {
      const kept = table.adopt(order.table);
      await (server.listening ? confirm(kept) : kept);
    }
  }

  /** On disk, and answered with: the edge asks itself through its own socket before it says so. */
  async function confirm(kept: Promise<void>): Promise<void> {
    const [answered] = await Promise.all([askSelf(portOf(), config.host, agent), kept]);
    const revision = Math.min(answered, table.onDisk());
    await client.call(roleRoutes.edgeConfirmRoute, { body: { instance, revision } });
  }

  const portOf = (): number => {
    const address = server.address();
    return typeof address === 'object' && address !== null ? address.port : 0;
  };

  const asked = new Promise<true>((resolve) => {
    void followOrders({
      client,
      instance,
      revision: table.onDisk,
      take,
      log,
      signal: stop.signal,
      first: resolve,
    });
  });
  const reached = await Promise.race([asked, pause(askApiFirstMs, false)]);
  if (!reached)
    log.warn(
      { revision: table.revision() },
      'the api did not answer; serving from the copy on disk',
    );
  server.listen(config.port, config.host);
  await once(server, 'listening');
  if (reached)
    await confirm(Promise.resolve()).catch((err: unknown) =>
      log.warn({ err }, 'the api was not told of the table'),
    );
  const beats = beat(stop.signal, async () => {
    await client.call(roleRoutes.edgeBeatRoute, { body: { instance, revision: table.onDisk() } });
  });
  log.info({ port: portOf(), revision: table.revision() }, 'edge serves');
  return {
    port: portOf(),
    stop: async () => {
      stop.abort();
      const closed = once(server, 'close');
      server.close();
      server.closeIdleConnections();
      // Requests under way end by themselves; those that hang are cut after two seconds.
      await Promise.race([closed, pause(2_000)]);
      server.closeAllConnections();
      agent.destroy();
      await Promise.all([closed, beats, compressed.stop(), table.stop()]);
    },
  };
}

async function beat(signal: AbortSignal, send: () => Promise<void>): Promise<void> {
  while (!signal.aborted) {
    await send().catch(() => undefined); // A beat that is missed is what makes an edge silent; the order stream logs the cause.
    await pause(beatEveryMs, undefined, { signal }).catch(() => undefined); // An abort only ends the wait.
  }
}

function askSelf(port: number, host: string, agent: Agent): Promise<number> {
  return new Promise((resolve, reject) => {
    const asking = request(
      { host: host === '0.0.0.0' ? '127.0.0.1' : host, port, agent, headers: { host: healthHost } },
      (res) => {
        res.resume();
        res.once('end', () => resolve(Number(res.headers['vaquero-revision'])));
        res.once('error', reject);
      },
    );
    asking.once('error', reject);
    asking.end();
  });
}
