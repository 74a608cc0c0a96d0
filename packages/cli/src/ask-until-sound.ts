import type { DocumentFault } from '@vaquero/core';
import type { Context } from './command.ts';
import { safe } from './output.ts';

/** A text that somebody is to write. */
export interface Draft {
  /** Such as `The recipe`. */
  readonly what: string;
  readonly text: string;
  /** What is wrong with it. */
  readonly read: (text: string) => readonly DocumentFault[];
}

/** Has a text written in one's own editor until it can be read. */
export async function askUntilSound(
  io: Context['io'],
  { what, text, read }: Draft,
): Promise<string> {
  const written = await io.edit(what, text, '.yaml');
  const faults = read(written);
  if (faults.length === 0) return written;
  for (const { line, path, message } of faults)
    io.err(`${line === null ? '' : `line ${line}: `}${safe(`${path} ${message}`.trim())}`);
  await io.choose('It cannot be read so.', [{ value: true, says: 'Write it otherwise' }]);
  return askUntilSound(io, { what, text: written, read });
}
