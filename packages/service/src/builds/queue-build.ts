import type { Proposed, RefName } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import type { Aim } from '../database/kept-shapes.ts';
import type { Tx } from '../database/pool.ts';
import { aimOf } from '../map/aim.ts';
import type { WantingEnvironment } from '../map/named-environments.ts';
import { nextBuildNumber, type ProjectRow } from '../projects/project-rows.ts';
import { insertBuild } from './build-change-rows.ts';
import { isForTop, mayPublish, type PreparedBuild } from './prepare-builds.ts';
import { takeIn } from './take-in.ts';

/** A build to be queued: of which ref, why, and what waits for it. */
export interface QueueBuild {
  readonly project: ProjectRow;
  readonly build: PreparedBuild;
  readonly ref: RefName;
  readonly changeId: string | null;
  /** The person who pushed or asked for it, who is told of its end; null where none did. */
  readonly begunBy: string | null;
  readonly cause: string;
  /** Environments that its ref goes to: those that a build is for take notice of it, each under a number that orders automatic deploys. */
  readonly environments: readonly WantingEnvironment[];
  /** How what is known of earlier steps is used. */
  readonly earlier?: 'used' | 'left' | 'compared';
  /** Somebody means it to be smaller than what is live. */
  readonly meant?: boolean;
}

/**
 * Writes a build and, under each environment's lock, the intakes that wait for it. A build that cannot
 * begin is written as failed at once, one whose inputs are known as reused, with the artifact that came of
 * them: nothing would be gained by queueing either.
 */
export async function queueBuild(
  deps: Deps,
  tx: Tx,
  {
    project,
    build,
    ref,
    changeId,
    begunBy,
    cause,
    environments: wanting,
    earlier = 'used',
    meant = false,
  }: QueueBuild,
): Promise<{ readonly id: string; readonly number: number }> {
  const names = takersOf(build, wanting);
  const number = await nextBuildNumber(tx, project.id);
  const id = deps.newId();
  const at = deps.clock();
  const failed = build.failure !== null;
  const { known } = build;
  const isOver = failed || known !== null;
  await insertBuild(tx, {
    id,
    projectId: project.id,
    number,
    state: failed ? 'failed' : known === null ? 'queued' : 'reused',
    ref,
    commitId: build.commit.id,
    subject: build.commit.subject,
    author: build.commit.author,
    authorMail: build.commit.authorMail,
    committedAt: build.commit.at,
    cause,
    changeId,
    begunBy,
    recipe: known?.recipe ?? build.recipe,
    folder: build.folder,
    failure: build.failure,
    queuedAt: at,
    startedAt: isOver ? at : null,
    endedAt: isOver ? at : null,
    artifact: known?.artifact ?? null,
    reusedFrom: known?.number ?? null,
    inputKey: build.inputKey,
    earlier,
    meant,
    recipeName: build.name,
    ...columnsOf(build.proposed),
    aim: { ...aimOf(build.map, build.destination), ...shutInOf(build) },
    variables: build.inputs?.given ?? null,
    needs: build.recipe?.recipe.runner ?? null,
    // What the top waits for comes before anything else, then what another environment takes.
    priority: isForTop(build) ? 2 : names.length > 0 ? 1 : 0,
  });
  if (names.length > 0)
    await takeIn(tx, project.id, names, build.commit.id, at, {
      buildId: id,
      changeId,
      state: failed ? 'failed' : 'waiting',
    });
  return { id, number };
}

/** Has environments wait for a build that is queued already. */
export async function takeInto(
  deps: Deps,
  tx: Tx,
  { project, build, changeId, environments: wanting }: QueueBuild,
  buildId: string,
): Promise<void> {
  const names = takersOf(build, wanting);
  if (names.length === 0) return;
  const row = { buildId, changeId, state: build.failure === null ? 'waiting' : 'failed' } as const;
  await takeIn(tx, project.id, names, build.commit.id, deps.clock(), row);
}

/** The names of the environments that take notice of a build. */
function takersOf(build: PreparedBuild, wanting: readonly WantingEnvironment[]): readonly string[] {
  if (!mayPublish(build)) return [];
  const { rules } = build.destination;
  return wanting
    .filter(({ rule }) => rules.some(({ name }) => name === rule))
    .map(({ name }) => name);
}

function shutInOf({ shutInBy }: PreparedBuild): Pick<Aim, 'shutInBy'> {
  return shutInBy === null ? {} : { shutInBy };
}

function columnsOf(proposed: Proposed | null) {
  return { proposedInto: proposed?.into ?? null, trust: proposed?.trust ?? 'trusted' };
}
