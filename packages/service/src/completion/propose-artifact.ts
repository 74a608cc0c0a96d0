import type { roleRoutes } from '@vaquero/contracts';
import {
  type BuildFailure,
  belowFolder,
  counted,
  countFindings,
  type Digest,
  encodeManifest,
  manifestOf,
  missedBase,
  type Recipe,
  type SiteFile,
  sizeOf,
  stopsOf,
  type TriedAddress,
  triedAddresses,
  withFolder,
  withOutput,
} from '@vaquero/core';
import type { z } from 'zod';
import { answersAtItsAddress } from '../artifacts/answers-at-address.ts';
import { blobPath, digestOf, storeBytes, storeOf } from '../artifacts/blob-store.ts';
import { lastingOf } from '../artifacts/lasting-file-rows.ts';
import { keepAtHand, proposedFiles } from '../artifacts/proposed-files.ts';
import { openUpload, requireUpload } from '../artifacts/upload-rows.ts';
import type { Deps } from '../base/deps.ts';
import { Impossible, refused } from '../base/refused.ts';
import type { StepRow } from '../builds/attempt-rows.ts';
import { type AttemptRow, setSteps } from '../builds/attempt-rows.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { buildById, folderOf } from '../builds/build-rows.ts';
import { planOf } from '../builds/known-steps.ts';
import { inspectArtifact, type ToInspect } from '../evidence/inspect-artifact.ts';
import { aimOfBuild } from '../map/aim.ts';
import { mapOf } from '../map/map-rows.ts';
import { projectById } from '../projects/project-rows.ts';
import { finishAttempt } from './finish-attempt.ts';

type Proposed = z.output<typeof roleRoutes.proposeArtifactRoute.body>;

/**
 * Takes an artifact that a runner proposes: checks every name and blob, writes the manifest, inspects it, sees
 * it answer at its own address, and only then names it and lets the build pass. Null when the proposal builds on an
 * artifact that is not kept; it is to be made again, whole.
 * Refuses: invalid-request, attempt-over.
 */
export async function takeProposal(
  deps: Deps,
  attempt: AttemptRow,
  proposed: Proposed,
): Promise<Digest | null> {
  const arrivedAt = deps.clock();
  const store = storeOf(deps.config.stateDirectory);
  // While one is open, nothing that is found in the store now is swept away.
  if (proposed.upload === null) await openUpload(deps, attempt);
  else await requireUpload(deps, attempt, proposed.upload);
  const build = await buildById(deps.db, attempt.buildId);
  const files = await proposedFiles(deps, store, build.projectId, proposed);
  if (files === null) return null;
  if (build.recipe == null) throw new Impossible('a running build has a recipe');
  const project = await projectById(deps.db, build.projectId);
  const shown = belowFolder(proposed.site, folderOf(project, build));
  const recipe = await servingOf(deps, store, build.recipe, shown, files);
  const { serve } = recipe;
  if (serve === null) return refused({ code: 'attempt-over', attempt: attempt.id });
  const manifest = manifestOf(files, serve);
  if (!files.some((file) => file.path === serve.entry)) {
    await finishAttempt(
      deps,
      { attempt, build, project },
      {
        ok: false,
        failure: {
          reason: 'entry-absent',
          site: proposed.site,
          entry: serve.entry,
          folders: [],
        },
      },
    );
    return refused({ code: 'attempt-over', attempt: attempt.id });
  }
  const bytes = Buffer.from(encodeManifest(manifest));
  const digest = digestOf(bytes);
  keepAtHand(deps, digest, manifest);
  // What reads the files and what writes their manifest and looks at it go side by side. Until both are done
  // nothing names the artifact: only the service itself sees it at its address.
  const place = planOf(project, build).steps.length + 1;
  const says = `${counted(files.length, 'file')} of ${proposed.site}`;
  const stored = storedStep(attempt, place, says, {
    startedAt: proposed.since,
    endedAt: arrivedAt,
  });
  const lasting = await lastingOf(digest, manifest);
  const what = { project, build, artifact: digest, manifest, store, lasting, site: proposed.site };
  const looking = storeBytes(store, bytes, digest).then(() => {
    prepareEarly(deps, digest);
    return lookBeforeLive(deps, attempt, place + 2, { digest, tried: triedAddresses(manifest) });
  });
  const [inspected, looked] = await Promise.all([
    inspectFirst(deps, attempt, stored, what),
    looking,
  ]);
  const failure = inspected.failure ?? looked.failure;
  const made = { digest, size: sizeOf(manifest), format: manifest.format, lasting, recipe };
  await finishAttempt(
    deps,
    { attempt, build, project },
    failure === null ? { ok: true, made } : { ok: false, failure },
    [inspected.step, looked.step],
  );
  return digest;
}

/** Lets the edges fetch and check an artifact while it is inspected. What one of them lacks is said when it is to go live. */
function prepareEarly(deps: Deps, artifact: Digest): void {
  deps.edges
    .prepare(artifact, deps.newId, 5_000)
    .catch((err: unknown) => deps.log.warn({ err, artifact }, 'edges were not told early'));
}

/** The recipe with what the build has shown: its folder, if it was open, and for a proposal how it is served. */
async function servingOf(
  deps: Deps,
  store: string,
  { recipe, source }: NonNullable<BuildRecord['recipe']>,
  site: string,
  files: readonly SiteFile[],
): Promise<Recipe> {
  const paths = files.map((file): string => file.path);
  if (source.from === 'proposed')
    return withOutput(recipe, site, paths, await baseOf(deps, store, recipe, files));
  return recipe.serve?.site === null
    ? withFolder(recipe, site, paths.includes('404.html'))
    : recipe;
}

const largestEntry = 1 << 20;

/** The folder of the host that a site was built for, told by its entry page; null where nothing speaks for one. */
async function baseOf(
  deps: Deps,
  store: string,
  { serve }: Recipe,
  files: readonly SiteFile[],
): Promise<string | null> {
  const entry = files.find((file) => file.path === serve?.entry);
  if (entry === undefined || entry.sizeBytes > largestEntry) return null;
  const { digest } = entry;
  const file = { digest, source: blobPath(store, digest), kind: 'page' as const, facts: true };
  const known = deps.reading.known.get('page', digest);
  const [read] = known === undefined ? await deps.reading.files([file], []) : [];
  const facts = known ?? (read === undefined || read === 'late' ? null : read.facts);
  if (facts === null || facts.base !== null) return null;
  const there = new Set<string>(files.map(({ path }) => path));
  const assets = facts.references.filter(({ kind }) => kind === 'asset').map(({ to }) => to);
  return missedBase((path) => there.has(path), assets);
}

/** What a step of the service's own found, and its row as it is to be kept. */
interface OwnStep {
  readonly failure: BuildFailure | null;
  readonly step: StepRow;
}

/** Does the work of a step of the service's own while it is being kept how far the build has come. */
async function under<T>(deps: Deps, steps: readonly StepRow[], work: () => Promise<T>): Promise<T> {
  const [done] = await Promise.all([work(), setSteps(deps.db, steps)]);
  return done;
}

/** Storing is over with the proposal. */
function storedStep(
  attempt: AttemptRow,
  place: number,
  says: string,
  times: Pick<StepRow, 'startedAt' | 'endedAt'>,
): StepRow {
  return { attemptId: attempt.id, place, name: 'store', says, state: 'passed', ...times };
}

/** Inspects what was built before anybody sees it; a finding that stops builds of where it goes ends it. */
async function inspectFirst(
  deps: Deps,
  attempt: AttemptRow,
  stored: StepRow,
  what: ToInspect,
): Promise<OwnStep> {
  const files = what.manifest.site.files.length;
  const step = {
    attemptId: attempt.id,
    place: stored.place + 1,
    name: 'inspect',
    says: 'links, assets, secrets, size',
    state: 'running' as const,
    logFrom: null,
    startedAt: deps.clock(),
    endedAt: null,
  };
  const findings = await under(deps, [stored, step], () => inspectArtifact(deps, what));
  const [map, { rules }] = await Promise.all([
    mapOf(deps.db, what.project),
    aimOfBuild(deps.db, what.project, what.build),
  ]);
  const stops = new Set<string>(stopsOf(map, rules));
  if (what.build.meant) stops.delete('shrank');
  const stopping = findings.filter(({ rule }) => stops.has(rule));
  const { error, warning } = countFindings(findings);
  return {
    failure:
      stopping.length === 0
        ? null
        : {
            reason: 'inspection',
            findings: stopping.slice(0, 50),
            total: stopping.length,
            artifact: what.artifact,
          },
    step: {
      ...step,
      says: `${counted(files, 'file')}: ${counted(error, 'error')}, ${counted(warning, 'warning')}`,
      state: stopping.length > 0 ? 'failed' : error + warning > 0 ? 'warned' : 'passed',
      endedAt: deps.clock(),
    },
  };
}

async function lookBeforeLive(
  deps: Deps,
  attempt: AttemptRow,
  place: number,
  { digest, tried }: { readonly digest: Digest; readonly tried: readonly TriedAddress[] },
): Promise<OwnStep> {
  const step = {
    attemptId: attempt.id,
    place,
    name: 'look',
    says: 'does it answer at its own address?',
    state: 'running' as const,
    logFrom: null,
    startedAt: deps.clock(),
    endedAt: null,
  };
  const looked = await under(deps, [step], () => answersAtItsAddress(deps, digest, tried));
  return {
    failure: looked.ok
      ? null
      : { reason: 'not-answering', address: looked.address, why: looked.why },
    step: { ...step, state: looked.ok ? 'passed' : 'failed', endedAt: deps.clock() },
  };
}
