import { readFile } from 'node:fs/promises';
import { Misuse } from '../command.ts';

/** The text of a map's file. Throws Misuse where it cannot be read. */
export async function mapFile(path: string): Promise<string> {
  return readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
    const why = error.code === 'ENOENT' ? 'is not there' : `cannot be read (${error.code})`;
    throw new Misuse(`${path} ${why}: vaquero map PROJECT --text > ${path} writes one`);
  });
}
