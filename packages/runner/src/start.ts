import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import {
  type AttemptGiven,
  CallRefused,
  headersOfRole,
  makeClient,
  roleRoutes,
} from '@vaquero/contracts';
import type { Instant } from '@vaquero/core';
import type { Logger } from 'pino';
import { openFileStore } from './artifacts/store-files.ts';
import { AttemptOver, makeAttemptClient } from './builds/attempt-client.ts';
import type { BuildRun } from './builds/build-at.ts';
import { builtAs } from './builds/built-as.ts';
import { type Caches, openCaches } from './builds/caches.ts';
import { runBuild } from './builds/run-build.ts';
import { openToolVersions, runHere, type ToolVersions } from './builds/tool-versions.ts';
import { type RunnerConfig, withoutWallsWords } from './config.ts';
import { type OutputStore, openOutputStore } from './outputs/output-store.ts';
import { shareOutputs } from './outputs/shared-outputs.ts';
import { canPicture, type Picturing, pictureLoop, pictureSlot } from './pictures/picture-loop.ts';
import { canLayer, unmountBelow } from './sources/layered.ts';
import { openSourceCache } from './sources/source-cache.ts';
import { type Anterooms, openAnterooms } from './walls/anteroom.ts';
import { checkWalls, runBeforeBuilds } from './walls/check-walls.ts';
import { clearControlGroups } from './walls/control-group.ts';
import { npmSettings } from './walls/npm-settings.ts';
import { clearSlot, killAll, runningAmong, type Slot, slotsOf } from './walls/slot.ts';
import { openUids, type Uids } from './walls/uids.ts';
import { openUsedWorkplaces } from './walls/used-workplaces.ts';

/** A running runner. */
export interface RunningRunner {
  /** Claims nothing more, finishes what runs within the time it is given for that, gives up the rest (the api queues it again), and ends. */
  readonly stop: () => Promise<void>;
  readonly isReady: () => boolean;
}

/** What differs between the service and what drives it in one process with a clock of its own. */
export interface RunnerOptions {
  readonly config: RunnerConfig;
  readonly log: Logger;
  readonly clock?: () => Instant;
}

const claimWaitMs = 10_000;
const sweepEveryMs = 300_000;

/**
 * Starts the runner role. Throws when the walls cannot stand, with the reason, unless the operator wrote
 * out the danger.
 */
export async function startRunner({
  config,
  log,
  clock = () => Date.now() as Instant,
}: RunnerOptions): Promise<RunningRunner> {
  const slots = slotsOf(config);
  const isRoot = process.getuid?.() === 0;
  const uids = isRoot ? await openUids(config.uids, slots.length, config.stateDirectory) : null;
  try {
    return await startWith({ config, log, clock }, slots, uids);
  } catch (error) {
    uids?.stop();
    throw error;
  }
}

async function startWith(
  { config, log, clock }: Required<RunnerOptions>,
  slots: readonly Slot[],
  uids: Uids | null,
): Promise<RunningRunner> {
  const picturing = canPicture(config) ? pictureSlot(config, slots) : null;
  const places = picturing === null ? slots : [...slots, picturing];
  const aside = await clearPlaces(config, places, uids);
  const [first] = slots;
  const anterooms = openAnterooms(config.withoutWalls ? [] : slots, config.limits, log);
  if (config.withoutWalls)
    log.warn('builds run WITHOUT walls: they can read and change this machine');
  else if (first !== undefined) await refuseWithoutWalls(config, first, anterooms, aside);
  const shared = await openShared({ config, log, clock }, first, anterooms, aside);
  const stop = new AbortController();
  const drain = new AbortController();
  const instance = randomUUID();
  const working = new Set<number>();
  const { signal } = stop;
  const draining = drain.signal;
  const loops = slots.map((slot) =>
    claimLoop({ config, log, shared, slot, uids, instance, signal, draining, working }),
  );
  const pictures = takePicturesIn(picturing, {
    config,
    used: shared.used,
    uids,
    anterooms,
    log,
    signal: draining,
    isFree: () => working.size < slots.length,
  });
  const sweeping = sweep({
    ...shared,
    log,
    signal: stop.signal,
    isIdle: () => working.size === 0,
  });
  log.info({ slots: slots.length, walls: !config.withoutWalls }, 'runner ready');
  return {
    isReady: () => !drain.signal.aborted,
    stop: async () => {
      drain.abort();
      const late = setTimeout(() => stop.abort(), config.drainMs);
      // Builds that run are finished while there is time for it; the rest is given up, to be queued again.
      if (config.drainMs > 0 && working.size > 0)
        log.info({ builds: working.size, forMs: config.drainMs }, 'draining');
      await Promise.all(loops);
      clearTimeout(late);
      stop.abort();
      await Promise.all([...loops, sweeping, pictures]);
      const { store, used, shared: sharedOutputs } = shared;
      await Promise.all([store.stop(), used.stop(), anterooms.stop(), sharedOutputs.stop()]);
      uids?.stop();
    },
  };
}

/** Opens what all builds of this runner share. */
async function openShared(
  { config, log, clock }: Required<RunnerOptions>,
  first: Slot | undefined,
  anterooms: Anterooms,
  aside: string,
): Promise<Shared> {
  const npmrc = await npmSettings();
  const store = openFileStore(join(config.stateDirectory, 'store'));
  const used = await openUsedWorkplaces(aside, log);
  const layers = !config.withoutWalls && (await canLayer(join(used.directory, randomUUID())));
  if (!layers) log.info('trees are unpacked whole for each build: this machine shows no layers');
  const { stateDirectory, outputBytes, cacheBytes } = config;
  const folder = join(stateDirectory, 'outputs');
  return {
    shared: shareOutputs(
      makeClient({ address: config.api, headers: headersOfRole(config.token) }),
      log,
    ),
    limits: config.limits,
    withoutWalls: config.withoutWalls,
    storeElsewhere: config.storeElsewhere,
    npmrc,
    store,
    outputs: await openOutputStore(folder, store, outputBytes, log, layers),
    sources: layers ? openSourceCache(used, log) : null,
    caches: await openCaches(join(stateDirectory, 'caches'), cacheBytes, log),
    anterooms,
    told: new Map(),
    tools: await askTools(config, first, anterooms, aside),
    used,
    clock,
  };
}

/** Ends and puts aside what a runner that was killed has left; says where. */
async function clearPlaces(
  { stateDirectory }: RunnerConfig,
  places: readonly Slot[],
  uids: Uids | null,
): Promise<string> {
  await clearControlGroups(places.map((slot) => slot.name));
  // What it left running under uids of ours; those of others are not touched.
  for (const uid of runningAmong(uids?.given() ?? [])) await killAll({ uid });
  await unmountBelow(join(stateDirectory, 'slots'));
  const aside = join(stateDirectory, 'slots', 'used');
  for (const slot of places) await clearSlot(slot, aside);
  return aside;
}

/** Takes pictures until the signal aborts, where this runner can. */
async function takePicturesIn(
  slot: Slot | null,
  picturing: Omit<Picturing, 'slot' | 'client' | 'limits'>,
): Promise<void> {
  if (slot === null) return;
  const { config } = picturing;
  const client = makeClient({ address: config.api, headers: headersOfRole(config.token) });
  await pictureLoop({ ...picturing, slot, client, limits: config.limits });
}

async function refuseWithoutWalls(
  config: RunnerConfig,
  slot: Slot,
  anterooms: Anterooms,
  aside: string,
): Promise<void> {
  const why = await checkWalls(config, slot, anterooms, aside);
  if (why === null) return;
  await anterooms.stop();
  throw new Error(
    `The runner does not start, because the walls around builds cannot stand here: ${why}\nNext: install bubblewrap, slirp4netns and iproute2 and allow user namespaces; or, on a machine that may be lost, set VAQUERO_RUNNER_WITHOUT_WALLS=${withoutWallsWords}.`,
  );
}

/** Versions are asked for where steps run: the machine's own may be others. */
function askTools(
  config: RunnerConfig,
  slot: Slot | undefined,
  anterooms: Anterooms,
  aside: string,
): Promise<ToolVersions> {
  if (config.withoutWalls || slot === undefined) return openToolVersions(runHere);
  return openToolVersions(
    async (command) =>
      (await runBeforeBuilds(config, slot, anterooms, aside, 'none', command)).said,
  );
}

interface Sweep {
  readonly outputs: OutputStore;
  readonly caches: Caches;
  readonly log: Logger;
  readonly signal: AbortSignal;
  readonly isIdle: () => boolean;
}

/** Keeps outputs and caches within their limits, while no build runs that could use them. */
async function sweep({ outputs, caches, log, signal, isIdle }: Sweep): Promise<void> {
  while (!signal.aborted) {
    await pause(sweepEveryMs, undefined, { signal }).catch(() => undefined); // An abort only ends the wait.
    if (signal.aborted || !isIdle()) continue;
    await Promise.all([outputs.sweep(), caches.sweep()]).catch((err: unknown) =>
      log.error({ err }, 'outputs and caches were not swept'),
    );
  }
}

/** What all builds of a runner share. */
type Shared = Omit<BuildRun, 'given' | 'api' | 'slot' | 'signal' | 'giveUp' | 'faulty'>;

interface Loop {
  readonly config: RunnerConfig;
  readonly log: Logger;
  readonly shared: Shared;
  readonly slot: Slot;
  readonly uids: Uids | null;
  readonly instance: string;
  readonly signal: AbortSignal;
  /** Aborts before that: nothing more is claimed, what runs goes on. */
  readonly draining: AbortSignal;
  /** Slots that build now. */
  readonly working: Set<number>;
}

async function claimLoop(loop: Loop): Promise<void> {
  const { config, log, instance, draining } = loop;
  const signal = AbortSignal.any([loop.signal, draining]);
  const client = makeClient({
    address: config.api,
    headers: headersOfRole(config.token),
  });
  let failures = 0;
  while (!signal.aborted) {
    try {
      const given = await client.call(roleRoutes.claimRoute, {
        body: {
          instance,
          waitMs: claimWaitMs,
          tools: loop.shared.tools.known(),
          slots: config.slots,
          labels: [...config.labels],
          keeps: [...(loop.shared.sources?.kept(loop.slot) ?? [])],
        },
        signal,
      });
      failures = 0;
      if (given !== null) await work(loop, given);
    } catch (err) {
      if (signal.aborted) return;
      failures += 1;
      const isRefused = err instanceof CallRefused && err.problem.code === 'not-signed-in';
      if (isRefused && failures === 1)
        log.error(
          'the api does not know the token of this runner: it was taken back, or is another installation’s',
        );
      else if (failures === 3) log.warn({ err }, 'the api does not answer; claiming goes on');
      await pause(Math.min(2_000, 100 * 2 ** failures), undefined, { signal }).catch(
        () => undefined,
      ); // An abort only ends the wait.
    }
  }
}

async function work(loop: Loop, given: AttemptGiven): Promise<void> {
  const { project, circle } = given;
  const { uids, log, config } = loop;
  // Before anything is written for it: what an earlier one left may fill the disk.
  await loop.shared.used.makeRoom();
  const key = { project: builtAs(given), circle, slot: loop.slot.number };
  const asked = uids?.hold(key) ?? Promise.resolve(null);
  const held = await asked.catch((error: Error) => error);
  if (held instanceof Error) {
    // No uid is left for it: another attempt would find none either.
    log.error({ err: held, project, build: given.build }, 'a build could not be begun');
    const api = makeAttemptClient(config.api, given, loop.signal);
    return api.fail({ reason: 'runner-fault', why: held.message });
  }
  await workAs(loop, given, { ...loop.slot, uid: held?.uid ?? null }).finally(held?.release);
}

async function workAs(loop: Loop, given: AttemptGiven, slot: Slot): Promise<void> {
  const { config, log, shared } = loop;
  const over = new AbortController();
  shared.used.building(1);
  loop.working.add(slot.number);
  const signal = AbortSignal.any([loop.signal, over.signal]);
  const api = makeAttemptClient(config.api, given, signal);
  const beats = beat(api.beat, given.leaseMs / 3, signal, () => over.abort());
  try {
    const faulty = (err: unknown): void =>
      log.error({ err, project: given.project, build: given.build }, 'a build ended by a fault');
    await runBuild({ ...shared, given, api, slot, signal, giveUp: () => over.abort(), faulty });
    log.info({ project: given.project, build: given.build, fence: given.fence }, 'attempt ended');
  } catch (err) {
    if (err instanceof AttemptOver || signal.aborted)
      log.warn(
        { build: given.build, fence: given.fence },
        'attempt given up: it is over for the api',
      );
    else log.error({ err, build: given.build, fence: given.fence }, 'attempt failed in the runner');
  } finally {
    over.abort();
    await beats;
    await killAll(slot);
    shared.used.building(-1);
    loop.working.delete(slot.number);
  }
}

/** Prolongs the lease. A beat that is refused ends the attempt; one that finds nobody is simply missed. */
async function beat(
  send: () => Promise<void>,
  everyMs: number,
  signal: AbortSignal,
  end: () => void,
): Promise<void> {
  while (!signal.aborted) {
    await pause(everyMs, undefined, { signal }).catch(() => undefined); // An abort only ends the wait.
    if (signal.aborted) return;
    await send().catch((error: unknown) => {
      if (error instanceof CallRefused && error.problem.code === 'attempt-over') end();
    });
  }
}
