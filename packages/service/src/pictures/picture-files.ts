import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { PagesTaken } from '@vaquero/contracts';
import { unlessGone } from '../base/unless-gone.ts';
import type { PageTaken } from '../database/kept-shapes.ts';

export type Side = PageTaken['sides'][number];

const sides: readonly Side[] = ['before', 'after', 'difference'];

function folderOf(stateDirectory: string, id: string): string {
  return join(stateDirectory, 'pictures', id);
}

/** Keeps the images of pages, and says which there are. */
export async function keepImages(
  stateDirectory: string,
  id: string,
  pages: PagesTaken,
): Promise<readonly PageTaken[]> {
  const folder = folderOf(stateDirectory, id);
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const taken: PageTaken[] = [];
  for (const page of pages) {
    const there = sides.filter((side) => page[side] !== null);
    for (const side of there)
      await writeFile(
        join(folder, `${page.place}-${side}.png`),
        Buffer.from(page[side] ?? '', 'base64'),
        { mode: 0o600 },
      );
    taken.push({ place: page.place, share: page.share, sides: there, why: page.why });
  }
  return taken;
}

/** One image; undefined when there is none. */
export function readImage(
  stateDirectory: string,
  id: string,
  page: number,
  side: Side,
): Promise<Buffer | undefined> {
  return readFile(join(folderOf(stateDirectory, id), `${page}-${side}.png`)).catch(unlessGone);
}

export async function removeImages(stateDirectory: string, id: string): Promise<void> {
  await rm(folderOf(stateDirectory, id), { recursive: true, force: true });
}
