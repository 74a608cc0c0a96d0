import { readFile } from 'node:fs/promises';
import type { Digest, Manifest } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { Impossible } from '../base/refused.ts';
import { isKept } from './artifact-rows.ts';
import { blobPath, digestOf } from './blob-store.ts';

/** Reads a manifest from the store. Throws when it is not there, or damaged. */
export async function readManifest(store: string, digest: Digest): Promise<Manifest> {
  const bytes = await readFile(blobPath(store, digest));
  if (digestOf(bytes) !== digest) throw new Impossible(`the manifest ${digest} is damaged`);
  // Its bytes are those that this service wrote under this name.
  return JSON.parse(bytes.toString()) as Manifest;
}

/** The manifest of a project's artifact, as long as its bytes are kept. */
export async function keptManifest(
  deps: Deps,
  store: string,
  projectId: string,
  digest: Digest,
): Promise<Manifest | null> {
  if (!(await isKept(deps.db, projectId, digest))) return null;
  const atHand = deps.manifests.get(digest);
  if (atHand !== undefined) return atHand;
  return readManifest(store, digest);
}
