import { readdirSync, renameSync, statSync } from 'node:fs';
import { join } from 'node:path';
import type { Digest } from '@vaquero/core';
import { blobPath } from './blob-store.ts';

/** Where a sweep puts what no artifact holds, by the day, for a day at least. */
export function asideOf(store: string): string {
  return join(store, 'aside');
}

/** Puts a blob back that was put aside; says whether it is in the store now. */
export function takeBack(store: string, digest: Digest): boolean {
  const aside = asideOf(store);
  if (statSync(aside, { throwIfNoEntry: false }) === undefined) return false;
  for (const day of readdirSync(aside)) {
    const path = join(aside, day, digest);
    if (statSync(path, { throwIfNoEntry: false }) === undefined) continue;
    renameSync(path, blobPath(store, digest));
    return true;
  }
  return false;
}
