import { once } from 'node:events';
import { createServer, type Server } from 'node:http';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { type Instant, later, traitsOf } from '@vaquero/core';
import { LRUCache } from 'lru-cache';
import type { Logger } from 'pino';
import { uuidv7 } from 'uuidv7';
import { databaseAnswers, makeApp } from './app.ts';
import { storeOf } from './artifacts/blob-store.ts';
import { sweepStore } from './artifacts/sweep-store.ts';
import { followLog } from './audit/follow-log.ts';
import { makeClosed } from './base/closed-folder.ts';
import type { ApiConfig } from './base/config.ts';
import type { Deps } from './base/deps.ts';
import { openInstallationKeys } from './base/installation-keys.ts';
import { startLoop } from './base/loop.ts';
import { sha256 } from './base/sha256.ts';
import { makeNudge, makeTurn } from './base/waiting.ts';
import { buildOnSchedule } from './builds/build-on-schedule.ts';
import { leaseMs, sweepLapsed } from './builds/claim.ts';
import { makeLogTopics } from './builds/log-topics.ts';
import { whoCalls } from './callers/who-calls.ts';
import { giveBackLeases, onlyOne } from './database/leases.ts';
import { answers, applyMigrations } from './database/migrate.ts';
import { type Db, openDatabase, type StatementHook } from './database/pool.ts';
import { strayRows } from './database/stray-rows.ts';
import { isAway } from './database/transaction.ts';
import { makeReadingThreads } from './evidence/reading-threads.ts';
import { keepAllFamilies } from './families/keep-families.ts';
import { sweepKeys } from './idempotency/kept-call-rows.ts';
import { knowMachine } from './machines/machine-rows.ts';
import { stopsIntoMaps } from './map/stops-into-maps.ts';
import { settleAll } from './moves/settle-intakes.ts';
import { makePassingNews } from './news/passing-news.ts';
import { makeIssuer } from './people/elsewhere-issuer.ts';
import { firstLinkPath, startWithOperator } from './people/first-operator.ts';
import { makeMailer } from './people/mailer.ts';
import { sweepSessions, sweepTries } from './people/sign-in.ts';
import { sweepPictures } from './pictures/want-pictures.ts';
import { allRepositories } from './projects/project-rows.ts';
import { makeDoorbell } from './refs/doorbell.ts';
import { makeFollower } from './refs/follow-outsiders.ts';
import { lookAtRepository } from './refs/look.ts';
import { makeLookTurns } from './refs/look-in-turns.ts';
import { sweepLooks } from './refs/sweep-looks.ts';
import { directoryOf, keepTreesAsCommitted } from './repositories/bare-repository.ts';
import type { Doorbell } from './repositories/rings.ts';
import { makeEdgeStreams } from './routing/edge-streams.ts';
import { publishIfBehind } from './routing/publish-table.ts';
import { sweepFigures } from './visits/visit-rows.ts';

/** A running api. */
export interface RunningApi {
  readonly deps: Deps;
  readonly port: number;
  readonly doorbell: Doorbell;
  /** Stops listening, ends loops and streams, and lets go of the database. */
  readonly stop: () => Promise<void>;
}

/** What differs between the service and what drives it in one process with a clock of its own. */
export interface ApiOptions {
  readonly config: ApiConfig;
  readonly log: Logger;
  readonly clock?: () => Instant;
  readonly migrationsDirectory: string;
  /** Sees each statement that is sent to the database. */
  readonly onStatement?: StatementHook;
}

/** Starts the api role: waits for the database, migrates, listens, and takes over what a dead process left. */
export async function startApi({
  config,
  log,
  clock = systemClock,
  migrationsDirectory,
  onStatement,
}: ApiOptions): Promise<RunningApi> {
  for (const name of ['repositories', 'submodules'])
    await makeClosed(join(config.stateDirectory, name));
  await makeClosed(storeOf(config.stateDirectory));
  const keys = await openInstallationKeys(config.stateDirectory);
  await migrateWhenThere(config.databaseUrl, migrationsDirectory, log);
  const { db, close } = openDatabase(config.databaseUrl, onStatement);
  const follower = await followLog(db, log);
  const deps: Deps = {
    config,
    clock,
    newId: uuidv7,
    instance: uuidv7(),
    db,
    keys,
    reading: makeReadingThreads(),
    comparisons: new LRUCache({ max: 20 }),
    manifests: new Map(),
    knownEdges: new Map(),
    log,
    issuer:
      config.elsewhere === null
        ? null
        : makeIssuer(config.elsewhere, `${config.origin}/sign-in/back`),
    mailer: config.mail === null ? null : makeMailer(config.mail),
    follower,
    news: makePassingNews(db, log),
    logs: makeLogTopics(),
    edges: makeEdgeStreams(),
    queueNudge: makeNudge(),
    claimTurn: makeTurn(),
    guard: whoCalls,
  };
  await knowOwnMachines(db, config);
  const link = await startWithOperator(deps, config);
  if (link !== null) sayFirst(log, link, config);
  await stopsIntoMaps(deps);
  // Repositories of an earlier version keep their trees as this one does.
  for (const repository of await allRepositories(db))
    await keepTreesAsCommitted(directoryOf(config.stateDirectory, repository.id));
  const doorbell = makeDoorbell(log, (id, ring) => lookAtRepository(deps, id, ring));
  const server = createServer(makeApp(deps, doorbell));
  server.requestTimeout = 0; // Streams of orders and pushes of large repositories last as long as they last.
  server.listen(config.port, config.host);
  await once(server, 'listening').catch(async (error: unknown) => {
    // Nothing that was opened keeps a process alive which cannot serve.
    deps.mailer?.stop();
    await Promise.all([deps.reading.stop(), deps.news.stop(), follower.stop()]);
    await close();
    throw error;
  });
  const quit = follower.listen(({ kind }) => {
    // There may be a build to begin now, whichever process took it in.
    if (traitsOf(kind).queues) deps.queueNudge.ring();
  });
  const loops = startLoops(deps, doorbell);
  log.info({ port: portOf(server) }, 'api listens');
  return {
    deps,
    port: portOf(server),
    doorbell,
    stop: async () => {
      const closed = once(server, 'close');
      server.close();
      server.closeAllConnections();
      quit();
      deps.mailer?.stop();
      await Promise.all([closed, doorbell.stop(), ...loops.map((end) => end())]);
      await Promise.all([deps.news.stop(), follower.stop()]);
      // A database that is away keeps nothing from ending: what was held lapses by itself.
      await giveBackLeases(db, deps.instance).catch((err: unknown) =>
        log.warn({ err }, 'leases were not given back'),
      );
      await deps.reading.stop();
      await close();
    },
  };
}

/** The runner and the edge that are started beside the api. */
async function knowOwnMachines(db: Db, { runnerToken, edgeToken }: ApiConfig): Promise<void> {
  for (const [role, token] of [
    ['runner', runnerToken],
    ['edge', edgeToken],
  ] as const)
    await knowMachine(db, { id: uuidv7(), role, name: `${role}-1`, tokenHash: sha256(token) });
}

function startLoops(deps: Deps, doorbell: Doorbell): readonly (() => Promise<void>)[] {
  // A database that comes back finds leases that lapsed only because nobody could prolong them: one whole
  // lease passes before any is taken.
  let awayAt = performance.now();
  let answeredAt = awayAt;
  const look = onlyOne(deps, 'looks', makeLookTurns(deps, doorbell));
  const lookers = startLoop(deps.log, 'looks', 1000, look);
  const follower = makeFollower(deps, doorbell);
  const outsiders = startLoop(
    deps.log,
    'outsiders',
    1000,
    onlyOne(deps, 'outsiders', () => follower.turn()),
  );
  const settler = startLoop(deps.log, 'intakes', 2000, () => settleAll(deps));
  const leases = startLoop(deps.log, 'leases', 1000, async () => {
    const isThere = await answers(deps.db);
    const now = performance.now();
    // One that stood still answers late instead of not at all, and prolonged nothing meanwhile.
    if (!isThere || now - answeredAt > leaseMs / 2) awayAt = now;
    if (!isThere) return;
    answeredAt = now;
    databaseAnswers();
    if (performance.now() - awayAt > leaseMs) await sweepLapsed(deps);
  });
  const build = onlyOne(deps, 'schedules', (lease) => buildOnSchedule(deps, lease));
  const schedules = startLoop(deps.log, 'schedules', 15_000, build);
  const keep = onlyOne(deps, 'families', () => keepAllFamilies(deps));
  const families = startLoop(deps.log, 'families', 10_000, keep);
  // Other api processes move environments too; what this one's edges were not told of, they are told now.
  const tables = startLoop(deps.log, 'tables', 100, () => publishIfBehind(deps));
  const forget = onlyOne(deps, 'forgetting', async () => {
    await sweepKeys(deps);
    await sweepTries(deps);
    await sweepSessions(deps);
    await sweepLooks(deps);
    await sweepPictures(deps);
  });
  const keys = startLoop(deps.log, 'forgetting', 600_000, forget);
  let isStart = true;
  const sweep = onlyOne(deps, 'store', async () => {
    await sweepFigures(deps.db, deps.clock());
    const swept = await sweepStore(deps);
    if (swept.aside + swept.removed > 0) deps.log.info(swept, 'store swept');
    const strays = await strayRows(deps.db, later(deps.clock(), -2 * 3_600_000));
    if (strays.length > 0) deps.log.error({ strays }, 'rows refer to what is not there');
  });
  const sweeps = startLoop(deps.log, 'store', 3_600_000, async () => {
    // A start has other things to do than to read every manifest.
    if (isStart) isStart = false;
    else await sweep();
  });
  const endFollowing = async (): Promise<void> => {
    await outsiders();
    await follower.stop();
  };
  return [sweeps, families, endFollowing, lookers, settler, leases, schedules, tables, keys];
}

/** Where nobody is known yet: how somebody becomes the operator. A log keeps no key, so only a terminal is shown it. */
function sayFirst(log: Logger, link: string, config: ApiConfig): void {
  const path = firstLinkPath(config.stateDirectory);
  log.warn(
    { path },
    'nobody is known here yet: the link in this file makes the first operator, once',
  );
  if (config.isOnTerminal || process.stderr.isTTY)
    process.stderr.write(`\nThe first operator: ${link}\n\n`);
}

async function migrateWhenThere(url: string, folder: string, log: Logger): Promise<void> {
  for (let tried = 1; ; tried += 1) {
    try {
      await applyMigrations(url, folder);
      return;
    } catch (err) {
      if (!isAway(err)) throw err;
      log.warn({ tried }, 'database does not answer yet');
      await pause(Math.min(5_000, 250 * tried));
    }
  }
}

function portOf(server: Server): number {
  const address = server.address();
  return typeof address === 'object' && address !== null ? address.port : 0;
}

function systemClock(): Instant {
  return Date.now() as Instant;
}
