import { type BuildReply, type BuildRow, recipeRoutes } from '@vaquero/contracts';
import {
  type CommitId,
  criticalPath,
  type Digest,
  destinationOf,
  failureInWords,
  type Instant,
  mapOne,
  readRefName,
  type TimedStep,
  usualTime,
} from '@vaquero/core';
import { and, eq } from 'drizzle-orm';
import { artifacts, deploys, environments } from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import { viewEvidence } from '../evidence/view-evidence.ts';
import { addressOf, hostsOfArtifact } from '../projects/addresses.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { refused } from '../refused.ts';
import {
  aheadInQueue,
  type BuildRecord,
  buildByNumber,
  type ListedBuild,
  latestAttempt,
  stepsOf,
  usualTimes,
} from './build-rows.ts';
import { explainFailure } from './explain-failure.ts';

/** A build as a row of a list. */
export function viewRow(build: ListedBuild): BuildRow {
  return {
    number: build.number,
    state: build.state,
    ref: build.ref,
    cause: build.cause,
    commit: {
      id: build.commitId as CommitId,
      subject: build.subject,
      author: build.author,
      at: build.committedAt as Instant,
    },
    queuedAt: build.queuedAt as Instant,
    startedAt: build.startedAt as Instant | null,
    endedAt: build.endedAt as Instant | null,
    artifact:
      build.artifact === null
        ? null
        : { digest: build.artifact as Digest, files: build.files ?? 0, bytes: build.bytes ?? 0 },
    failure: build.failure == null ? null : failureInWords(build.failure),
    earlier: build.earlier,
    reusedFrom: build.reusedFrom,
    marks: [...build.marks],
  };
}

function marksIn(steps: Awaited<ReturnType<typeof stepsOf>>): ListedBuild['marks'] {
  return (['flaky', 'warned'] as const).filter((mark) => steps.some((step) => step.state === mark));
}

/** Vaquero's own steps come after all before them: fetching before the recipe's, storing and looking behind. */
function chained(steps: Awaited<ReturnType<typeof stepsOf>>): readonly TimedStep[] {
  const own = new Set(['fetch', 'store', 'inspect', 'look']);
  return steps.map((step) => ({
    ...step,
    after: own.has(step.name)
      ? steps.filter((other) => other.place < step.place).map((other) => other.name)
      : (step.after?.length ?? 0) === 0
        ? ['fetch']
        : (step.after ?? []),
  }));
}

/** Everything the build page shows. Refuses: not-found. */
export async function viewBuild(
  deps: Deps,
  project: ProjectRow,
  number: number,
): Promise<BuildReply> {
  const build = await buildByNumber(deps.db, project.id, number);
  if (build === undefined)
    return refused({ code: 'not-found', what: 'build', name: String(number) });
  const attempt = await latestAttempt(deps.db, build.id);
  const [size, steps, times, live, evidence] = await Promise.all([
    sizeOf(deps, build),
    attempt === undefined ? [] : stepsOf(deps.db, attempt.id),
    usualTimes(deps.db, project.id, build.ref),
    liveIn(deps, build),
    viewEvidence(deps, build),
  ]);
  const explained = build.state === 'failed' ? await explainFailure(deps, project, build) : null;
  const ref = readRefName(build.ref);
  const usual = usualTime(times);
  const critical = criticalPath(chained(steps), deps.clock());
  return {
    ...viewRow({ ...build, ...size, marks: marksIn(steps) }),
    recipe:
      build.recipe == null
        ? null
        : {
            recipe: recipeRoutes.recipeSeen.parse(build.recipe.recipe),
            source: structuredClone(build.recipe.source) as never,
          },
    steps: steps.map((step) => ({
      name: step.name,
      state: step.state,
      says: step.says,
      startedAt: step.startedAt as Instant | null,
      endedAt: step.endedAt as Instant | null,
      logFrom: step.logFrom,
      after: [...(step.after ?? [])],
      tries: step.tries,
      reused: step.reused == null ? null : { ...step.reused, at: step.reused.at as Instant },
      critical: critical.has(step.name),
    })),
    attempts: build.attempts,
    reason: build.failure ?? null,
    tellingLine: explained?.tellingLine ?? null,
    lastGood: explained?.lastGood ?? null,
    explanation: explained?.explanation ?? null,
    place: build.state === 'queued' ? { ahead: await aheadInQueue(deps.db, build.id) } : null,
    usualMs: usual?.medianMs ?? null,
    usual,
    evidence,
    tools: attempt?.tools ?? null,
    live: [...live],
    addresses:
      build.artifact === null
        ? []
        : hostsOfArtifact(deps.config, project.name, build.artifact as Digest, build.number).map(
            addressOf,
          ),
    destination: ref === undefined ? '' : destinationOf(mapOne(project.branch), ref).why,
  };
}

async function sizeOf(
  deps: Deps,
  build: BuildRecord,
): Promise<{ files: number | null; bytes: number | null }> {
  if (build.artifact === null) return { files: null, bytes: null };
  const [row] = await deps.db
    .select({ files: artifacts.files, bytes: artifacts.bytes })
    .from(artifacts)
    .where(and(eq(artifacts.projectId, build.projectId), eq(artifacts.digest, build.artifact)));
  return row ?? { files: null, bytes: null };
}

async function liveIn(deps: Deps, build: BuildRecord): Promise<readonly string[]> {
  if (build.artifact === null) return [];
  const rows = await deps.db
    .select({ name: environments.name })
    .from(environments)
    .innerJoin(deploys, eq(deploys.id, environments.servesDeployId))
    .where(and(eq(environments.projectId, build.projectId), eq(deploys.artifact, build.artifact)));
  return rows.map((row) => row.name);
}
