import { type BuildReply, type BuildRow, recipeRoutes } from '@vaquero/contracts';
import { failureInWords, type Instant, nameOfRef, toolsOfRecipe, usualTime } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { latestAttempt, stepsOf } from '../builds/attempt-rows.ts';
import { buildByNumber, usualTimes } from '../builds/build-rows.ts';
import { explainFailure } from '../builds/explain-failure.ts';
import type { ListedBuild } from '../builds/listed-build-rows.ts';
import { placeInQueue } from '../builds/queue-rows.ts';
import { viewEvidence } from '../evidence/view-evidence.ts';
import { aimOfBuild } from '../map/aim.ts';
import { authorsOf } from '../people/authors.ts';
import { addressOf, hostsOfArtifact } from '../projects/addresses.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { liveIn, siblingsOf, sizeOf } from './build-view-rows.ts';
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

async function viewPlace(deps: Deps, id: string): Promise<BuildReply['place']> {
  const place = await placeInQueue(deps, id);
  if (place === null) return null;
  const { ahead, startsInMs, lacks } = place;
  const startsAt = startsInMs === null ? null : ((deps.clock() + startsInMs) as Instant);
  return { ahead, startsAt, lacks: [...lacks] };
}
