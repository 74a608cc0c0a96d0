import { sign } from 'node:crypto';
import { evidenceRoutes, version } from '@vaquero/contracts';
import {
  canonical,
  type Digest,
  type Json,
  provenanceStatement,
  type Recipe,
  toolsOfRecipe,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { sha256 } from '../base/sha256.ts';
import type { StepRow } from '../builds/attempt-rows.ts';
import { type AttemptRow, stepsOf } from '../builds/attempt-rows.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { folderOf } from '../builds/build-rows.ts';
import type { ProvenanceRow } from '../evidence/provenance-rows.ts';
import { type ProjectRow, repositoryById } from '../projects/project-rows.ts';
import { namesRead } from '../variables/given-values.ts';

/** What a statement of provenance tells of. */
export interface Told {
  readonly project: ProjectRow;
  readonly build: BuildRecord;
  readonly attempt: AttemptRow;
  readonly artifact: Digest;
  readonly recipe: Recipe;
  /** Steps that have ended just now, and are not written yet as they ended. */
  readonly ended: readonly StepRow[];
  readonly endedAt: number;
}

/** Writes and signs where an artifact came from. */
export async function makeProvenance(deps: Deps, told: Told): Promise<ProvenanceRow> {
  const { project, build, attempt, artifact, recipe, ended, endedAt } = told;
  const [repository, kept] = await Promise.all([
    repositoryById(deps.db, project.repositoryId),
    stepsOf(deps.db, attempt.id),
  ]);
  const steps = kept.map((step) => {
    const now = ended.find((one) => one.place === step.place);
    return { ...step, state: now?.state ?? step.state, endedAt: now?.endedAt ?? step.endedAt };
  });
  const { origin } = deps.config;
  const statement = provenanceStatement({
    project: project.name,
    build: build.number,
    artifact,
    repository:
      repository.kind === 'hosted' ? `${origin}/git/${project.name}.git` : repository.place,
    folder: folderOf(project, build),
    ref: build.ref,
    trust: build.trust,
    commit: build.commitId,
    recipe,
    recipeDigest: sha256(canonical(recipe as unknown as Json)),
    tools: toolsOfRecipe(recipe, attempt.tools ?? {}),
    given: namesRead(recipe),
    steps: steps.map((step) => ({ ...step, reusedFrom: step.reused?.build ?? null })),
    attempt: attempt.id,
    runner: attempt.runnerId,
    service: { address: origin, version },
    startedAt: build.startedAt ?? build.queuedAt,
    endedAt,
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
  return {
    projectId: project.id,
    buildId: build.id,
    artifact,
    envelope: Buffer.from(JSON.stringify(envelope)),
  };
}
