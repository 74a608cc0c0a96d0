import { readFile } from 'node:fs/promises';
import { Misuse } from './command.ts';

/** The text of a file that somebody names; `next` says what writes one. Throws Misuse where it cannot be read. */
export async function textOfFile(path: string, next: string): Promise<string> {
  return readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
    const why = error.code === 'ENOENT' ? 'is not there' : `cannot be read (${error.code})`;
    throw new Misuse(`${path} ${why}: ${next}`);
  });
}
