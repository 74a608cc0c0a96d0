import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { chmod, mkdir } from 'node:fs/promises';
import { Agent, createServer, request } from 'node:http';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { makeClient } from '@vaquero/contracts';
import type { Logger } from 'pino';
import { inTurn, makeBringer } from './blobs/bring-blobs.ts';
import { makeCompressed } from './blobs/compressed.ts';
import { makeMemory } from './blobs/memory.ts';
import { makeVerifiedFiles } from './blobs/open-verified.ts';
import type { EdgeConfig } from './config.ts';
import { beat, sweepHourly } from './housekeeping.ts';
import { openLiveTable } from './routing/live-table.ts';
import { followOrders } from './routing/order-stream.ts';
import { makeOrders } from './routing/take-orders.ts';
import { makeTeller } from './routing/tell-api.ts';
import { answer } from './serving/answer.ts';
import { makeVisits } from './serving/visits.ts';

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
  const directory = await closedFolder(join(config.stateDirectory, 'edge'));
  const store = join(config.stateDirectory, 'store');
  const table = await openLiveTable(store, directory);
  const verified = makeVerifiedFiles(store);
  const compressed = makeCompressed(verified, join(directory, 'compressed'), log);
  const client = makeClient({
    address: config.api,
    headers: { authorization: `Bearer ${config.token}` },
  });
  const instance = randomUUID();
  const stop = new AbortController();
  const bringer = config.storeElsewhere ? makeBringer(client, store, stop.signal) : null;
  const memory = makeMemory(config.memoryBytes);
  const bring = bringer === null ? null : inTurn(bringer.bring);
  const mend = bringer === null ? null : inTurn(bringer.mend);
  const visits = makeVisits(clock);
  const serving = { visits, table, store, memory, compressed, verified, clock, bring, mend, log };
  const api = makeTeller(client);
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

  const portOf = (): number => {
    const address = server.address();
    return typeof address === 'object' && address !== null ? address.port : 0;
  };

  const orders = makeOrders({
    table,
    api,
    instance,
    bringer,
    askSelf: () => (server.listening ? askSelf(portOf(), config.host, agent) : null),
    log,
    signal: stop.signal,
  });
  const asked = new Promise<true>((resolve) => {
    void followOrders({
      client,
      instance,
      revision: table.onDisk,
      take: orders.take,
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
    await orders
      .confirm(Promise.resolve())
      .catch((err: unknown) => log.warn({ err }, 'the api was not told of the table'));
  const sweeps = sweepHourly({ signal: stop.signal, bringer, compressed, table, log });
  const beats = beat({ client, instance, table, visits, signal: stop.signal });
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
      api.stop();
      await Promise.all([closed, beats, compressed.stop(), table.stop(), sweeps]);
    },
  };
}

/** A folder that nobody else looks into. */
async function closedFolder(path: string): Promise<string> {
  await mkdir(path, { recursive: true, mode: 0o700 });
  await chmod(path, 0o700);
  return path;
}

function askSelf(port: number, host: string, agent: Agent): Promise<number> {
  return new Promise((resolve, reject) => {
    const asking = request(
      { host: host === '0.0.0.0' ? '127.0.0.1' : host, port, agent, headers: { host: healthHost } },
      (res) => {
        res.resume();
        res.once('error', reject);
        resolve(Number(res.headers['vaquero-revision']));
      },
    );
    asking.once('error', reject);
    asking.end();
  });
}
