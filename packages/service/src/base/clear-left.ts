import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { unlessGone } from './unless-gone.ts';

/** Nothing that works in a folder of its own lasts as long: one of that age belongs to a process that died. */
const leftMs = 3_600_000;

/** Removes the folders, by the beginning of their names, that processes have left behind which were killed. */
export async function clearLeft(all: string, prefix: string): Promise<void> {
  for (const name of await readdir(all)) {
    if (!name.startsWith(prefix)) continue;
    const path = join(all, name);
    // One that is gone by now belonged to work that ended meanwhile.
    const madeMs = await stat(path).then(({ mtimeMs }) => mtimeMs, unlessGone);
    if (madeMs !== undefined && Date.now() - madeMs > leftMs)
      await rm(path, { recursive: true, force: true });
  }
}
