import type { Digest, Manifest } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { buildByNumber } from '../builds/build-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { storeOf } from './blob-store.ts';
import { keptManifest } from './manifest.ts';

/** The artifact of a build, as long as its bytes are kept. */
export interface KeptArtifact {
  readonly build: BuildRecord;
  readonly artifact: Digest;
  readonly manifest: Manifest;
}

/** The kept artifact of a build, by the number of the build. Refuses: not-found, where there is none or it is kept no more. */
export async function keptArtifactOf(
  deps: Deps,
  project: ProjectRow,
  number: number,
): Promise<KeptArtifact> {
  const build = await buildByNumber(deps.db, project.id, number);
  const artifact = build?.artifact ?? null;
  const store = storeOf(deps.config.stateDirectory);
  const manifest = artifact === null ? null : await keptManifest(deps, store, project.id, artifact);
  return build === undefined || artifact === null || manifest === null
    ? refused({ code: 'not-found', what: 'kept artifact of build', name: String(number) })
    : { build, artifact, manifest };
}
