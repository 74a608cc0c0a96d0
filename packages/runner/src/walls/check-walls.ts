import { statSync } from 'node:fs';
import { dirname } from 'node:path';
import type { RunnerConfig } from '../config.ts';
import type { Anterooms } from './anteroom.ts';
import { runBehindWalls } from './run-behind-walls.ts';
import { clearSlot, makeWorkplace, type Slot } from './slot.ts';
import { wholeSight } from './wall-arguments.ts';

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
  await clearSlot(slot, aside);
  const workplace = await makeWorkplace(slot);
  let said = '';
  const ended = await runBehindWalls(
    {
      slot,
      workplace,
      limits: config.limits,
      network: 'out',
      anterooms,
      environment: {},
      command: ['/bin/sh', '-c', 'test ! -e /root && test -w /build'],
      sight: wholeSight(workplace),
    },
    {
      npmrc: '',
      signal: new AbortController().signal,
      hear: (bytes) => {
        said += bytes.toString();
        return true;
      },
    },
  );
  await clearSlot(slot, aside);
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
