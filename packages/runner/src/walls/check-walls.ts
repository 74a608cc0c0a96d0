import { statSync } from 'node:fs';
import { dirname } from 'node:path';
import type { RunnerConfig } from '../config.ts';
import type { Anterooms } from './anteroom.ts';
import { basicEnvironment } from './basic-environment.ts';
import { type Ended, runBehindWalls } from './run-behind-walls.ts';
import { clearSlot, makeWorkplace, type Slot } from './slot.ts';
import { wholeSight } from './wall-arguments.ts';

/** A command that is run behind the walls while nothing is built, how it ended and what it said. */
interface Tried {
  readonly ended: Ended;
  readonly said: string;
}

/** Runs a command behind the walls of a slot that builds nothing yet. */
export async function runBeforeBuilds(
  config: RunnerConfig,
  slot: Slot,
  anterooms: Anterooms,
  aside: string,
  network: 'none' | 'out',
  command: readonly string[],
): Promise<Tried> {
  await clearSlot(slot, aside);
  const workplace = await makeWorkplace(slot);
  let said = '';
  const ended = await runBehindWalls(
    {
      slot,
      workplace,
      limits: config.limits,
      network,
      anterooms,
      environment: basicEnvironment,
      command,
      sight: wholeSight(workplace),
    },
    {
      npmrc: '',
      signal: new AbortController().signal,
      hear: (bytes) => {
        said += bytes.toString();
        return said.length < 100_000;
      },
    },
  );
  await clearSlot(slot, aside);
  return { ended, said };
}

/**
 * Raises the walls once, with a way out, around a command that does nothing.
 * Returns why they cannot stand, or null when they do.
 */
export async function checkWalls(
  config: RunnerConfig,
  slot: Slot,
  anterooms: Anterooms,
  aside: string,
): Promise<string | null> {
  const closed = slot.uid === null ? null : closedFolderAbove(slot.directory);
  if (closed !== null) {
    return `the folder ${closed} is closed to other users, and each build runs under a uid of its own. Open it (chmod o+x ${closed}), or set VAQUERO_STATE to a folder elsewhere`;
  }
  const command = ['/bin/sh', '-c', 'test ! -e /root && test -w /build'];
  const { ended, said } = await runBeforeBuilds(config, slot, anterooms, aside, 'out', command);
  if (ended.ok) return null;
  const why =
    ended.end.kind === 'walls'
      ? ended.end.why
      : `a trial command ended with ${JSON.stringify(ended.end)}`;
  return `${why} ${said}`.trim();
}

/** The first folder above a path that a process of another user cannot pass through; null when all let it. */
function closedFolderAbove(path: string): string | null {
  for (let at = dirname(path); at !== dirname(at); at = dirname(at)) {
    if ((statSync(at).mode & 0o001) === 0) return at;
  }
  return null;
}
