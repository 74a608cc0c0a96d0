import type { roleRoutes } from '@vaquero/contracts';
import { type Digest, type Manifest, readSitePath, type SiteFile } from '@vaquero/core';
import type { z } from 'zod';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { storedSize } from './blob-store.ts';
import { keptManifest } from './manifest.ts';
import { takeBack } from './swept-aside.ts';

declare module '../base/deps.ts' {
  interface Deps {
    /** Manifests stored lately, by their digests. */
    readonly manifests: Map<Digest, Manifest>;
  }
}

type Proposed = z.output<typeof roleRoutes.proposeArtifactRoute.body>;

/**
 * The files that a runner proposes, each name and blob checked. A proposal can name an artifact of the same
 * project and say only what differs from it; null when that artifact is not kept, so that all must be said.
 * Refuses: invalid-request.
 */
export async function proposedFiles(
  deps: Deps,
  store: string,
  projectId: string,
  { files, like }: Proposed,
): Promise<readonly SiteFile[] | null> {
  const fresh = files.map((file) => checkFile(store, file));
  if (like === null) return fresh;
  const earlier = await keptManifest(deps, store, projectId, like.artifact);
  if (earlier === null) return null;
  const others = new Set<string>([...like.without, ...fresh.map((file) => file.path)]);
  return [...earlier.site.files.filter((file) => !others.has(file.path)), ...fresh];
}

/** How many manifests are kept at hand: the newest of so many projects. */
const mostAtHand = 16;

/** Keeps a manifest at hand for the next proposal, which will be much like it. */
export function keepAtHand(deps: Deps, artifact: Digest, manifest: Manifest): void {
  deps.manifests.delete(artifact);
  deps.manifests.set(artifact, manifest);
  for (const [oldest] of deps.manifests) {
    if (deps.manifests.size <= mostAtHand) break;
    deps.manifests.delete(oldest);
  }
}

function checkFile(store: string, file: Proposed['files'][number]): SiteFile {
  const read = readSitePath(file.path);
  if ('fault' in read) return refuseFile(file.path, read.fault);
  const size = storedSize(store, file.digest) ?? putAsideSize(store, file.digest);
  if (size !== file.sizeBytes)
    return refuseFile(
      file.path,
      size === undefined
        ? 'is not in the store'
        : `is ${size} bytes in the store, not ${file.sizeBytes}`,
    );
  return { ...file, path: read.path };
}

/** A blob that nothing held was put aside; a build that has made the same bytes meanwhile gets it back. */
function putAsideSize(store: string, digest: Digest): number | undefined {
  return takeBack(store, digest) ? storedSize(store, digest) : undefined;
}

function refuseFile(path: string, message: string): never {
  return refused({
    code: 'invalid-request',
    faults: [{ path: `files ${path}`, message, line: null, column: null }],
  });
}
