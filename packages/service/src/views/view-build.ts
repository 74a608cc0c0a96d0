import { type BuildReply, type BuildRow, recipeRoutes } from '@vaquero/contracts';
import {
  areForOthers,
  failureInWords,
  type Instant,
  nameOfRef,
  toolsOfRecipe,
  usualTime,
} from '@vaquero/core';
import { and, asc, eq, ne } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { latestAttempt, stepsOf } from '../builds/attempt-rows.ts';
import { type BuildRecord, buildByNumber, usualTimes } from '../builds/build-rows.ts';
import { explainFailure } from '../builds/explain-failure.ts';
import type { ListedBuild } from '../builds/list-builds.ts';
import { placeInQueue } from '../builds/queue.ts';
import { artifacts, builds, deploys, environments } from '../database/tables.ts';
import { viewEvidence } from '../evidence/view-evidence.ts';
import { aimOfBuild } from '../map/aim.ts';
import { authorsOf } from '../people/authors.ts';
import { addressOf, hostsOfArtifact } from '../projects/addresses.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { viewSteps } from './view-steps.ts';

/** A build as a row of a list. */
export function viewRow(build: ListedBuild): BuildRow {
  return {
    number: build.number,
    state: build.state,
    ref: build.ref,
    pullRequest:
      build.proposedInto === null
        ? null
        : {
            name: nameOfRef(build.ref),
            into: build.proposedInto,
            outsider: build.trust === 'outsider',
          },
    cause: build.cause,
    commit: {
      id: build.commitId,
      subject: build.subject,
      author: build.author,
      authorIs: build.authorIs,
      at: build.committedAt as Instant,
    },
    queuedAt: build.queuedAt as Instant,
    startedAt: build.startedAt as Instant | null,
    endedAt: build.endedAt as Instant | null,
    artifact:
      build.artifact === null
        ? null
        : { digest: build.artifact, files: build.files ?? 0, bytes: build.bytes ?? 0 },
    failure: build.failure == null ? null : failureInWords(build.failure),
    earlier: build.earlier,
    reusedFrom: build.reusedFrom,
    overtakenBy: build.overtakenBy,
    recipeName: build.recipeName,
    rules: [...(build.aim?.rules ?? [])],
    marks: [...build.marks],
  };
}

function marksIn(steps: Awaited<ReturnType<typeof stepsOf>>): ListedBuild['marks'] {
  return (['flaky', 'warned'] as const).filter((mark) => steps.some((step) => step.state === mark));
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
  const [size, steps, times, live, evidence, siblings, authors] = await Promise.all([
    sizeOf(deps, build),
    attempt === undefined ? [] : stepsOf(deps.db, attempt.id),
    usualTimes(deps.db, project.id, build.ref, build.recipeName),
    liveIn(deps, build),
    viewEvidence(deps, build),
    siblingsOf(deps, build),
    authorsOf(deps.db, [build.authorMail]),
  ]);
  const explained = build.state === 'failed' ? await explainFailure(deps, project, build) : null;
  const { why } = await aimOfBuild(deps.db, project, build);
  const usual = usualTime(times);
  const seen = await viewSteps(deps, project, build, steps);
  return {
    ...viewRow({
      ...build,
      ...size,
      marks: marksIn(steps),
      authorIs: authors(build.authorMail),
    }),
    recipe:
      build.recipe == null
        ? null
        : {
            recipe: recipeRoutes.recipeSeen.parse(build.recipe.recipe),
            source: structuredClone(build.recipe.source) as never,
          },
    steps: [...seen],
    attempts: build.attempts,
    reason: build.failure ?? null,
    tellingLine: explained?.tellingLine ?? null,
    lastGood: explained?.lastGood ?? null,
    explanation: explained?.explanation ?? null,
    place: build.state === 'queued' ? await viewPlace(deps, build.id) : null,
    usualMs: usual?.medianMs ?? null,
    usual,
    evidence,
    tools:
      attempt?.tools == null
        ? null
        : toolsOfRecipe(build.recipe?.recipe ?? { steps: [] }, attempt.tools),
    live: [...live],
    addresses:
      build.artifact === null
        ? []
        : hostsOfArtifact(deps.config, project.name, build.artifact, build.number).map(addressOf),
    destination:
      build.recipe != null && build.recipe.recipe.serve === null
        ? 'nowhere: it makes evidence only'
        : why,
    siblings: [...siblings],
  };
}

/** The newest builds of the same commit by other recipes, or with other environments' values: what else is known of it. */
async function siblingsOf(deps: Deps, build: BuildRecord): Promise<BuildReply['siblings']> {
  const rows = await deps.db
    .select({
      number: builds.number,
      recipe: builds.recipeName,
      state: builds.state,
      aim: builds.aim,
    })
    .from(builds)
    .where(
      and(
        eq(builds.projectId, build.projectId),
        eq(builds.commitId, build.commitId),
        ne(builds.number, build.number),
      ),
    )
    .orderBy(asc(builds.number));
  const own = build.aim?.rules ?? [];
  const others = rows.flatMap(({ aim, ...row }) => {
    const rules = aim?.rules ?? [];
    const isSameRecipe = row.recipe === build.recipeName;
    if (isSameRecipe && !areForOthers(own, rules)) return [];
    // The column is written from BuildState values only.
    const state = row.state as BuildRecord['state'];
    return [{ ...row, state, wantedBy: isSameRecipe ? [...rules] : [] }];
  });
  const newest = new Map(others.map((row) => [[row.recipe, ...row.wantedBy].join(' '), row]));
  return [...newest.values()];
}

async function viewPlace(deps: Deps, id: string): Promise<BuildReply['place']> {
  const place = await placeInQueue(deps, id);
  if (place === null) return null;
  const { ahead, startsInMs, lacks } = place;
  const startsAt = startsInMs === null ? null : ((deps.clock() + startsInMs) as Instant);
  return { ahead, startsAt, lacks: [...lacks] };
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
    .where(
      and(
        eq(environments.projectId, build.projectId),
        eq(environments.living, true),
        eq(deploys.artifact, build.artifact),
      ),
    );
  return rows.map((row) => row.name);
}
