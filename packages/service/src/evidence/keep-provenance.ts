import { sign } from 'node:crypto';
import { evidenceRoutes, version } from '@vaquero/contracts';
import { canonical, type Digest, type Json, provenanceStatement, type Recipe } from '@vaquero/core';
import { sha256 } from '../audit/record.ts';
import { type AttemptRow, type BuildRecord, stepsOf } from '../builds/build-rows.ts';
import type { Tx } from '../database/pool.ts';
import { provenances } from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import { type ProjectRow, repositoryById } from '../projects/project-rows.ts';
import { namesRead } from '../variables/given-values.ts';

/** Writes and signs where an artifact came from, and keeps it with the build. */
export async function keepProvenance(
  deps: Deps,
  tx: Tx,
  project: ProjectRow,
  build: BuildRecord,
  attempt: AttemptRow,
  made: { readonly artifact: Digest; readonly recipe: Recipe; readonly endedAt: number },
): Promise<void> {
  const [repository, steps] = await Promise.all([
    // By the transaction's own connection: asking the pool for a second one here could wait for itself.
    repositoryById(tx, project.repositoryId),
    stepsOf(tx, attempt.id),
  ]);
  const { origin } = deps.config;
  const statement = provenanceStatement({
    project: project.name,
    build: build.number,
    artifact: made.artifact,
    repository:
      repository.kind === 'hosted' ? `${origin}/git/${project.name}.git` : repository.place,
    folder: project.folder,
    ref: build.ref,
    commit: build.commitId,
    recipe: made.recipe,
    recipeDigest: sha256(canonical(made.recipe as unknown as Json)),
    tools: attempt.tools ?? {},
    given: namesRead(made.recipe),
    steps: steps.map((step) => ({ ...step, reusedFrom: step.reused?.build ?? null })),
    attempt: attempt.id,
    runner: attempt.runnerId,
    service: { address: origin, version },
    startedAt: build.startedAt ?? build.queuedAt,
    endedAt: made.endedAt,
  });
  const payload = Buffer.from(canonical(statement));
  const bytes = evidenceRoutes.signedBytes(evidenceRoutes.statementType, payload);
  const envelope: evidenceRoutes.Envelope = {
    payloadType: evidenceRoutes.statementType,
    payload: payload.toString('base64'),
    signatures: [
      { keyid: deps.keys.keyId, sig: sign(null, bytes, deps.keys.signing).toString('base64') },
    ],
  };
  const row = { artifact: made.artifact, envelope: Buffer.from(JSON.stringify(envelope)) };
  await tx
    .insert(provenances)
    .values({ projectId: project.id, buildId: build.id, ...row })
    .onDuplicateKeyUpdate({ set: row });
}
