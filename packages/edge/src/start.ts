import { randomUUID } from 'node:crypto';
import { chmod, mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { type Client, headersOfRole, makeClient, roleRoutes } from '@vaquero/contracts';
import type { Logger } from 'pino';
import { inTurn, makeBringer } from './blobs/bring-blobs.ts';
import { makeCompressed } from './blobs/compressed.ts';
import { makeMemory } from './blobs/memory.ts';
import { makeVerifiedFiles } from './blobs/open-verified.ts';
import type { EdgeConfig } from './config.ts';
import { beat, sweepHourly } from './housekeeping.ts';
import { makeWorkers } from './processes/workers.ts';
import type { NameAnswer } from './routing/artifact-names.ts';
import { makeAskNames } from './routing/ask-names.ts';
import { openLiveTable } from './routing/live-table.ts';
import { followOrders } from './routing/order-stream.ts';
import { makeReach } from './routing/reach.ts';
import { openTableCopy } from './routing/table-copy.ts';
import { makeOrders } from './routing/take-orders.ts';
import { makeTeller } from './routing/tell-api.ts';
import { makeFront } from './serving/front.ts';
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
const askNameWithinMs = 2_000;

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
  const own = await openLiveTable(store, openTableCopy(directory));
  const verified = makeVerifiedFiles(store);
  const compressed = makeCompressed(verified, join(directory, 'compressed'), log);
  const client = makeClient({
    address: config.api,
    headers: headersOfRole(config.token),
  });
  const instance = randomUUID();
  const stop = new AbortController();
  const bringer = config.storeElsewhere ? makeBringer(client, store, stop.signal) : null;
  const bring = bringer === null ? null : inTurn(bringer.bring);
  const mend = bringer === null ? null : inTurn(bringer.mend);
  const visits = makeVisits(clock);
  const fetchName = nameFetcher(client);
  const reach = makeReach();
  const shared = { visits, bring, mend, log };
  const serving = {
    ...shared,
    table: own,
    store,
    memory: makeMemory(config.memoryBytes),
    compressed,
    verified,
    clock,
    isApiAway: reach.isAway,
    askName: makeAskNames(own, fetchName),
  };
  const api = makeTeller(client);
  const { front, table } =
    config.processes > 1
      ? makeWorkers({ ...shared, table: own, fetchName, reach, many: config.processes })
      : { front: makeFront(serving, config), table: own };
  const orders = makeOrders({
    table,
    api,
    instance,
    bringer,
    askSelf: front.revision,
    log,
    signal: stop.signal,
  });
  const asked = new Promise<true>((resolve) => {
    void followOrders({
      client,
      instance,
      revision: table.onDisk,
      knows: orders.knows,
      reach,
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
  await front.listen();
  if (reached)
    await orders
      .confirm(Promise.resolve())
      .catch((err: unknown) => log.warn({ err }, 'the api was not told of the table'));
  const sweeps = sweepHourly({ signal: stop.signal, bringer, compressed, table, log });
  const beats = beat({ client, instance, table, visits, signal: stop.signal });
  log.info({ port: front.port(), revision: table.revision() }, 'edge serves');
  return {
    port: front.port(),
    stop: async () => {
      stop.abort();
      await front.close();
      api.stop();
      await Promise.all([beats, compressed.stop(), table.stop(), sweeps]);
    },
  };
}

/** Asks the api what an artifact's own address stands for. */
function nameFetcher(client: Client): (host: string) => Promise<NameAnswer> {
  return (host) =>
    client.call(roleRoutes.artifactNameRoute, {
      query: { host },
      signal: AbortSignal.timeout(askNameWithinMs),
    });
}

/** A folder that nobody else looks into. */
async function closedFolder(path: string): Promise<string> {
  await mkdir(path, { recursive: true, mode: 0o700 });
  await chmod(path, 0o700);
  return path;
}
