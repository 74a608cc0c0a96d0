import { join } from 'node:path';
import type { roleRoutes } from '@vaquero/contracts';
import {
  type BuildFailure,
  belowFolder,
  countFindings,
  type Digest,
  encodeManifest,
  holdingByDefault,
  manifestOf,
  type Recipe,
  readSitePath,
  type SiteFile,
  sizeOf,
  withFolder,
} from '@vaquero/core';
import { and, eq, isNull } from 'drizzle-orm';
import type { z } from 'zod';
import { byVaquero, record } from '../audit/record.ts';
import {
  type AttemptRow,
  buildById,
  runningAttempt,
  setStep,
  stepsOf,
} from '../builds/build-rows.ts';
import { finishAttempt } from '../builds/finish-attempt.ts';
import { artifacts, uploads } from '../database/tables.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { inspectArtifact, type ToInspect } from '../evidence/inspect-artifact.ts';
import { projectById } from '../projects/project-rows.ts';
import { Impossible, refused } from '../refused.ts';
import { answersAtItsAddress } from './answers-at-address.ts';
import { storeBytes, storedSize } from './blob-store.ts';

type Proposed = z.output<typeof roleRoutes.proposeArtifactRoute.body>;

/** The store that the roles of one machine share. */
export function storeOf(stateDirectory: string): string {
  return join(stateDirectory, 'store');
}

/**
 * Takes an artifact that a runner proposes: checks every name and blob, writes the manifest, sees it
 * answer at its own address, and only then lets the build pass.
 * Refuses: invalid-request, attempt-over.
 */
export async function takeProposal(
  deps: Deps,
  attempt: AttemptRow,
  proposed: Proposed,
): Promise<Digest> {
  const store = storeOf(deps.config.stateDirectory);
  await requireUpload(deps, attempt, proposed.upload);
  const files = proposed.files.map((file) => checkFile(store, file));
  const build = await buildById(deps.db, attempt.buildId);
  if (build.recipe == null) throw new Impossible('a running build has a recipe');
  const project = await projectById(deps.db, build.projectId);
  const recipe = servingOf(build.recipe.recipe, {
    ...proposed,
    site: belowFolder(proposed.site, project.folder),
  });
  const manifest = manifestOf(files, recipe.serve);
  if (!files.some((file) => file.path === recipe.serve.entry)) {
    await finishAttempt(deps, attempt, {
      ok: false,
      failure: {
        reason: 'entry-absent',
        site: proposed.site,
        entry: recipe.serve.entry,
        folders: [],
      },
    });
    return refused({ code: 'attempt-over', attempt: attempt.id });
  }
  const digest = await storeBytes(store, Buffer.from(encodeManifest(manifest)));
  const stopped = await inspectFirst(deps, attempt, {
    project,
    build,
    artifact: digest,
    manifest,
    store,
    site: proposed.site,
  });
  if (stopped !== null) {
    await finishAttempt(deps, attempt, { ok: false, failure: stopped });
    return digest;
  }
  await noteArtifact(deps, attempt, proposed.upload, digest, sizeOf(manifest));
  const failure = await lookBeforeLive(
    deps,
    attempt,
    digest,
    manifest.site.files.find((file) => file.path === recipe.serve.entry),
  );
  await finishAttempt(
    deps,
    attempt,
    failure === null ? { ok: true, artifact: digest, recipe } : { ok: false, failure },
  );
  return digest;
}

async function requireUpload(deps: Deps, attempt: AttemptRow, upload: string): Promise<void> {
  const [row] = await deps.db
    .select()
    .from(uploads)
    .where(
      and(eq(uploads.id, upload), eq(uploads.attemptId, attempt.id), isNull(uploads.closedAt)),
    );
  if (row === undefined) refused({ code: 'attempt-over', attempt: attempt.id });
}

function checkFile(store: string, file: Proposed['files'][number]): SiteFile {
  const read = readSitePath(file.path);
  if ('fault' in read) return refuseFile(file.path, read.fault);
  const size = storedSize(store, file.digest);
  if (size !== file.sizeBytes)
    return refuseFile(
      file.path,
      size === undefined
        ? 'is not in the store'
        : `is ${size} bytes in the store, not ${file.sizeBytes}`,
    );
  return { ...file, path: read.path };
}

function refuseFile(path: string, message: string): never {
  return refused({
    code: 'invalid-request',
    faults: [{ path: `files ${path}`, message, line: null, column: null }],
  });
}

/** The recipe with the folder that the build has shown, if it was open. */
function servingOf(recipe: Recipe, proposed: Proposed): Recipe {
  if (recipe.serve.site !== null) return recipe;
  return withFolder(
    recipe,
    proposed.site,
    proposed.files.some((file) => file.path === '404.html'),
  );
}

async function noteArtifact(
  deps: Deps,
  attempt: AttemptRow,
  upload: string,
  digest: Digest,
  size: { files: number; bytes: number },
): Promise<void> {
  const build = await buildById(deps.db, attempt.buildId);
  const at = deps.clock();
  await inTransaction(deps.db, async (tx) => {
    const still = await runningAttempt(tx, attempt.id, attempt.credentialHash, true);
    if (still === undefined) return refused({ code: 'attempt-over', attempt: attempt.id });
    await tx
      .insert(artifacts)
      .values({ projectId: build.projectId, digest, buildId: build.id, ...size, storedAt: at })
      .onDuplicateKeyUpdate({ set: { goneAt: null } });
    await tx.update(uploads).set({ closedAt: at }).where(eq(uploads.id, upload));
    const project = await projectById(tx, build.projectId);
    await record(tx, {
      at,
      kind: 'artifact.stored',
      projectId: project.id,
      project: project.name,
      doing: byVaquero,
      facts: { artifact: digest, build: build.number, ...size },
    });
  });
}

/** Inspects what was built before it answers anywhere; a finding that the project holds for stops it. */
async function inspectFirst(
  deps: Deps,
  attempt: AttemptRow,
  what: ToInspect,
): Promise<BuildFailure | null> {
  const place = (await stepsOf(deps.db, attempt.id)).length;
  const step = {
    attemptId: attempt.id,
    place,
    name: 'inspect',
    says: 'links, assets, secrets, size',
    logFrom: null,
  };
  await setStep(deps.db, { ...step, state: 'running', startedAt: deps.clock(), endedAt: null });
  const findings = await inspectArtifact(deps, what);
  const holding = new Set<string>(what.project.holding ?? holdingByDefault);
  const stopping = findings.filter((one) => holding.has(one.rule));
  const { error, warning } = countFindings(findings);
  await setStep(deps.db, {
    ...step,
    says: `${what.manifest.site.files.length} files: ${error} errors, ${warning} warnings`,
    state: stopping.length > 0 ? 'failed' : error + warning > 0 ? 'warned' : 'passed',
    endedAt: deps.clock(),
  });
  return stopping.length === 0 ? null : { reason: 'inspection', findings: stopping.slice(0, 50) };
}

async function lookBeforeLive(
  deps: Deps,
  attempt: AttemptRow,
  digest: Digest,
  entry: SiteFile | undefined,
): Promise<BuildFailure | null> {
  const place = (await stepsOf(deps.db, attempt.id)).length;
  const step = {
    attemptId: attempt.id,
    place,
    name: 'look',
    says: 'does it answer at its own address?',
    logFrom: null,
  };
  await setStep(deps.db, { ...step, state: 'running', startedAt: deps.clock(), endedAt: null });
  const looked =
    entry === undefined
      ? { ok: false as const, address: '', why: 'it has no entry page' }
      : await answersAtItsAddress(deps, digest, entry);
  await setStep(deps.db, {
    ...step,
    state: looked.ok ? 'passed' : 'failed',
    endedAt: deps.clock(),
  });
  return looked.ok ? null : { reason: 'not-answering', address: looked.address, why: looked.why };
}
