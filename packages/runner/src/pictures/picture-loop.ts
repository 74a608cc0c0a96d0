import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { type Client, type PicturesGiven, pictureRoutes } from '@vaquero/contracts';
import type { Logger } from 'pino';
import type { RunnerConfig } from '../config.ts';
import type { Slot } from '../walls/slot.ts';
import type { Uids } from '../walls/uids.ts';
import type { UsedWorkplaces } from '../walls/used-workplaces.ts';
import { type Taken, type Taking, takePictures } from './take-pictures.ts';

/** The browser that takes pictures, where Debian puts it. */
export const browserPath = '/usr/bin/chromium';

const claimWaitMs = 10_000;
const lookAgainMs = 500;

/** What a runner that takes pictures works with. */
export interface Picturing extends Omit<Taking, 'slot' | 'signal' | 'store' | 'used'> {
  readonly used: UsedWorkplaces;
  readonly config: RunnerConfig;
  readonly client: Client;
  readonly slot: Slot;
  readonly uids: Uids | null;
  readonly log: Logger;
  readonly signal: AbortSignal;
  /** Whether a slot is free: pictures are not in the way of builds. */
  readonly isFree: () => boolean;
}

/** The place in which pictures are taken, beside those of builds. */
export function pictureSlot({ stateDirectory }: RunnerConfig, slots: readonly Slot[]): Slot {
  const [first] = slots;
  return {
    number: slots.length,
    name: `pictures-${first?.name ?? ''}`,
    uid: first?.uid ?? null,
    directory: join(stateDirectory, 'slots', 'pictures'),
  };
}

/** Whether a runner can take pictures: behind walls, with a browser, from a store that it shares. */
export function canPicture({ withoutWalls, storeElsewhere }: RunnerConfig): boolean {
  return !withoutWalls && !storeElsewhere && existsSync(browserPath);
}

/** Takes the pictures that are wanted, one pair of artifacts after another, until the signal aborts. */
export async function pictureLoop(picturing: Picturing): Promise<void> {
  const { client, signal, isFree, log } = picturing;
  let failures = 0;
  while (!signal.aborted) {
    try {
      if (!isFree()) {
        await pause(lookAgainMs, undefined, { signal });
        continue;
      }
      const given = await client.call(pictureRoutes.pictureClaimRoute, {
        body: { waitMs: claimWaitMs },
        signal,
      });
      failures = 0;
      if (given !== null) await take(picturing, given);
    } catch (err) {
      if (signal.aborted) return;
      failures += 1;
      if (failures === 3) log.warn({ err }, 'no pictures are taken: the api does not answer');
      await pause(Math.min(10_000, 200 * 2 ** failures), undefined, { signal }).catch(
        () => undefined,
      ); // An abort only ends the wait.
    }
  }
}

async function take(picturing: Picturing, given: PicturesGiven): Promise<void> {
  const { config, client, slot, uids, signal, log } = picturing;
  const key = { project: given.builtAs ?? given.project, circle: 'pictures', slot: slot.number };
  const held = await uids?.hold(key);
  const store = join(config.stateDirectory, 'store');
  await picturing.used.makeRoom();
  const taken = await takePictures(
    { ...picturing, store, slot: { ...slot, uid: held?.uid ?? slot.uid } },
    given,
  )
    .catch((error: Error): Taken => ({ pages: [], why: error.message.slice(0, 300) }))
    .finally(() => held?.release());
  if (signal.aborted) return;
  if (taken.why !== null) log.warn({ project: given.project, why: taken.why }, 'not pictured');
  await client.call(pictureRoutes.picturesEndRoute, {
    params: { pictures: given.pictures },
    body: { fence: given.fence, why: taken.why, pages: [...taken.pages] },
    signal,
  });
}
