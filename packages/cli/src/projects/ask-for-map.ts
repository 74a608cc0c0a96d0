import { readNewMap } from '@vaquero/contracts';
import { type DocumentFault, defaultMap } from '@vaquero/core';
import { askUntilSound } from '../ask-until-sound.ts';
import type { Context } from '../command.ts';
import { safe } from '../output.ts';

/** Shows the usual map and takes one of one's own in its place; null where it stays the usual one. */
export async function askForMap(
  { io }: Context,
  name: string,
  branch: string,
): Promise<string | null> {
  const text = defaultMap(name, branch);
  io.err('Its map would say:');
  io.err(safe(text).trimEnd());
  const isFine = await io.choose('Is it right?', [
    { value: true, says: 'It is; it can be set anew at any time' },
    { value: false, says: 'Write it otherwise first' },
  ]);
  if (isFine) return null;
  return askUntilSound(io, { what: 'The map', text, read: (now) => faultsIn(now, branch) });
}

function faultsIn(text: string, branch: string): readonly DocumentFault[] {
  const read = readNewMap(text, 1, branch);
  return read.ok || read.refusal.code !== 'map-invalid' ? [] : read.refusal.faults;
}
