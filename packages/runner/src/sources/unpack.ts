import type { Readable } from 'node:stream';
import type { BuildAt } from '../builds/build-at.ts';
import { environmentOf } from '../builds/run-step.ts';
import { type Ended, runBehindWalls } from '../walls/run-behind-walls.ts';
import { runWithoutWalls } from '../walls/run-without-walls.ts';
import type { Workplace } from '../walls/slot.ts';
import { wholeSight } from '../walls/wall-arguments.ts';

/**
 * Unpacks an archive into a folder of the build's uid. Behind the walls too: one that was made to harm a tar
 * program harms nobody. Throws with the reason.
 */
export async function unpackInto(at: BuildAt, folder: string, input: Readable): Promise<void> {
  const ended = await unpack(at, { ...at.workplace, tree: folder, layer: null }, input);
  if (ended.ok) return;
  const why = ended.end.kind === 'walls' ? ended.end.why : JSON.stringify(ended.end);
  throw new Error(`what came could not be unpacked (${why})`);
}

function unpack(at: BuildAt, workplace: Workplace, input: Readable): Promise<Ended> {
  const run = at.withoutWalls ? runWithoutWalls : runBehindWalls;
  return run(
    {
      slot: at.slot,
      workplace,
      limits: at.limits,
      network: 'none',
      anterooms: at.anterooms,
      environment: environmentOf(at, { sets: {}, given: [] }),
      // Archives of submodules stand behind that of the tree: tar reads on past each one's end.
      command: ['/usr/bin/tar', '-x', '--ignore-zeros', '--no-same-owner', '-f', '-'],
      sight: wholeSight(workplace),
    },
    { npmrc: at.npmrc, signal: at.signal, input, hear: (bytes) => at.log.say(bytes, 'fetch') },
  );
}
