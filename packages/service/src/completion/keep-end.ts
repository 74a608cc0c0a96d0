import type { BuildFailure, Digest, Instant, Recipe } from '@vaquero/core';
import { storeArtifact } from '../artifacts/artifact-rows.ts';
import { keepLasting, type LastingFile } from '../artifacts/lasting-file-rows.ts';
import { endBuild } from '../builds/build-change-rows.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import type { Tx } from '../database/pool.ts';
import { keepProvenance, type ProvenanceRow } from '../evidence/provenance-rows.ts';
import { failIntakes } from '../intakes/intake-rows.ts';

/** An artifact that was built, inspected and seen at its address, and is to be kept from now on. */
export interface MadeArtifact {
  readonly digest: Digest;
  readonly size: { readonly files: number; readonly bytes: number };
  /** The form of its manifest. */
  readonly format: number;
  readonly lasting: readonly LastingFile[];
  readonly recipe: Recipe;
}

/** How an attempt ended: with an artifact that answers, with evidence alone, or with a failure. */
export type AttemptEnd =
  | { readonly ok: true; readonly made: MadeArtifact | null }
  | { readonly ok: false; readonly failure: BuildFailure };

/** Writes the end of a build, with the artifact that came of it. */
export async function keepEnd(
  tx: Tx,
  { id, projectId, recipe: queued }: BuildRecord,
  end: AttemptEnd,
  provenance: ProvenanceRow | null,
  at: Instant,
): Promise<void> {
  if (!end.ok) {
    await endBuild(tx, id, { state: 'failed', failure: end.failure, at });
    return failIntakes(tx, id);
  }
  if (end.made === null) {
    await endBuild(tx, id, { state: 'passed', at });
    return;
  }
  const { digest, size, format, lasting, recipe } = end.made;
  await storeArtifact(tx, { projectId, digest, buildId: id, ...size, format, storedAt: at });
  await keepLasting(tx, lasting);
  if (provenance !== null) await keepProvenance(tx, provenance);
  await endBuild(tx, id, {
    state: 'passed',
    artifact: digest,
    recipe: queued && { ...queued, recipe },
    at,
  });
}
