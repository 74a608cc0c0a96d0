import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { readDigest } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { unlessGone } from '../base/unless-gone.ts';
import { keptSince } from './artifact-rows.ts';
import { blobPath, storeOf } from './blob-store.ts';
import { readManifest } from './manifest.ts';
import { asideOf } from './swept-aside.ts';
import { forgetUploads, isStoring } from './upload-rows.ts';

/** What a sweep of the store came to. */
export interface Swept {
  /** Blobs that no artifact holds, put aside, and their bytes. */
  readonly aside: number;
  readonly asideBytes: number;
  /** What had been put aside a day before, removed. */
  readonly removed: number;
  /** A build was storing meanwhile, so that everything was put back. */
  readonly putBack: boolean;
}

const dayMs = 86_400_000;
/** Younger blobs may belong to a build that has not said so yet. */
export const youngestMs = 3_600_000;

/**
 * Sweeps the store: what no artifact holds is put aside, and a day later removed. It needs no lock. The api may
 * have found a blob for a proposal at the very moment it is moved, so after the moves the sweep asks once
 * more: while any upload is open all is put back, and what an artifact that was stored meanwhile holds is put
 * back too. A proposal that comes later finds the blob missing, and gets it back from where it lies aside.
 */
export async function sweepStore(deps: Deps, olderMs = youngestMs): Promise<Swept> {
  const store = storeOf(deps.config.stateDirectory);
  const removed = await removeOldest(store, deps.clock());
  const nothing = { aside: 0, asideBytes: 0, removed, putBack: false };
  const begun = deps.clock();
  if (await isStoring(deps)) return { ...nothing, putBack: true };
  const held = await heldBlobs(deps, store, 0);
  const today = join(asideOf(store), new Date(begun).toISOString().slice(0, 10));
  const moved = await moveOthers(store, today, held, begun - olderMs);
  const [isOpen, since] = await Promise.all([isStoring(deps), heldBlobs(deps, store, begun)]);
  const back = [...moved.keys()].filter((digest) => isOpen || since.has(digest));
  for (const digest of back) {
    await rename(join(today, digest), blobPath(store, digest)).catch(unlessGone);
    moved.delete(digest);
  }
  await forgetUploads(deps.db, begun - dayMs);
  const asideBytes = [...moved.values()].reduce((sum, size) => sum + size, 0);
  return { aside: moved.size, asideBytes, removed, putBack: isOpen };
}

/** Moves every blob that is not held and is old enough into a folder; returns their sizes by digest. */
async function moveOthers(
  store: string,
  into: string,
  held: ReadonlySet<string>,
  beforeMs: number,
): Promise<Map<string, number>> {
  const moved = new Map<string, number>();
  // Before the first build there is no store.
  for (const folder of (await readdir(join(store, 'sha256')).catch(unlessGone)) ?? []) {
    for (const name of await readdir(join(store, 'sha256', folder))) {
      if (held.has(name)) continue;
      const path = join(store, 'sha256', folder, name);
      const found = await stat(path).catch(unlessGone);
      // A link keeps the time of the file that it is another name of; the later of both tells when it came here.
      if (found === undefined || Math.max(found.mtimeMs, found.ctimeMs) > beforeMs) continue;
      // What a crash left under a name of its own is nobody's.
      if (readDigest(name) === undefined) await rm(path, { force: true });
      else {
        await mkdir(into, { recursive: true });
        await rename(path, join(into, name)).catch(unlessGone);
        moved.set(name, found.size);
      }
    }
  }
  return moved;
}

/** Removes what was put aside before yesterday. */
async function removeOldest(store: string, now: number): Promise<number> {
  const yesterday = new Date(now - dayMs).toISOString().slice(0, 10);
  const days = await readdir(asideOf(store)).catch(unlessGone);
  let removed = 0;
  for (const day of (days ?? []).filter((one) => one < yesterday)) {
    removed += (await readdir(join(asideOf(store), day))).length;
    await rm(join(asideOf(store), day), { recursive: true, force: true });
  }
  return removed;
}

/** Every blob of the artifacts that are kept and were stored at some instant or later, manifests included. */
async function heldBlobs(deps: Deps, store: string, since: number): Promise<ReadonlySet<string>> {
  const digests = await keptSince(deps.db, since);
  const held = new Set<string>();
  for (const digest of digests) {
    held.add(digest);
    const { site } = await readManifest(store, digest);
    for (const file of site.files) held.add(file.digest);
  }
  return held;
}
