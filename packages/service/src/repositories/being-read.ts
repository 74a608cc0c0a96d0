import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { CommitUnreadable } from './tree-size.ts';

/** A commit during whose reading the process died so often is not read any more. */
const mostDeaths = 2;

/** Where a repository has the names of the commits that are being read: beside it, since they go when it goes. */
function placeOf(directory: string, commit: string): string {
  return join(directory, 'vaquero-reading', commit);
}

/**
 * Reads something of a commit under its noted name. The note outlives a process that dies of what it reads: when it
 * did so twice, the commit is not read again. A file, not a row: what is written down before is to cost nothing, and
 * has to outlive the process, not the machine. Throws CommitUnreadable, and what `read` throws.
 */
export async function noted<T>(
  directory: string,
  commit: string,
  read: () => Promise<T>,
): Promise<T> {
  const place = placeOf(directory, commit);
  const held = underWay.get(place) ?? 0;
  // Another reading of this very process is no sign that one died.
  const deaths = held > 0 ? 0 : await deathsAt(place);
  if (deaths >= mostDeaths)
    throw new CommitUnreadable(
      `the service ended twice while it read it, and does not read it again by itself`,
    );
  underWay.set(place, held + 1);
  try {
    if (held === 0) await note(place, deaths + 1);
    return await read();
  } finally {
    const left = (underWay.get(place) ?? 1) - 1;
    if (left > 0) underWay.set(place, left);
    else {
      underWay.delete(place);
      await rm(place, { force: true });
    }
  }
}

/** Readings under way in this process. */
const underWay = new Map<string, number>();

/** Lets a commit be read again, because somebody asked for it. */
export async function forgive(directory: string, commit: string): Promise<void> {
  await rm(placeOf(directory, commit), { force: true });
}

async function deathsAt(place: string): Promise<number> {
  const text = await readFile(place, 'utf8').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return '0';
    throw error;
  });
  return Number(text) || 0;
}

async function note(place: string, times: number): Promise<void> {
  await writeFile(place, String(times)).catch(async (error: NodeJS.ErrnoException) => {
    if (error.code !== 'ENOENT') throw error;
    await mkdir(join(place, '..'), { recursive: true, mode: 0o700 });
    await writeFile(place, String(times));
  });
}
