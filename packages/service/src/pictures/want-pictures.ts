import type { PicturesSeen } from '@vaquero/contracts';
import {
  type DeliveryMap,
  type FileChange,
  type Instant,
  later,
  mostPictured,
  pagesToPicture,
  ruleNamed,
} from '@vaquero/core';
import type { KeptArtifact } from '../artifacts/kept-artifact.ts';
import type { Deps } from '../base/deps.ts';
import type { BuildRecord } from '../builds/build-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { removeImages } from './picture-files.ts';
import {
  forgetWantedBefore,
  insertWanted,
  type PicturesRow,
  picturesOf,
  wantAgain,
} from './picture-rows.ts';

/** Pictures are evidence of what somebody is to decide on; behind it they go. */
const keptMs = 60 * 86_400_000;

/** What could not be pictured is tried again when somebody looks so long after. */
const againAfterMs = 3_600_000;

/** Whether the map asks for pictures of what a build changes: by some environment that wanted it. */
export function asksForPictures(map: DeliveryMap, { aim }: Pick<BuildRecord, 'aim'>): boolean {
  return (aim?.rules ?? []).some((rule) => ruleNamed(map, rule)?.pictures === true);
}

/**
 * Pictures of what two artifacts show otherwise, as far as they are; wanted from now on if they were not yet. Null where
 * the map does not ask for them.
 */
export async function picturesBetween(
  deps: Deps,
  project: ProjectRow,
  before: KeptArtifact,
  after: KeptArtifact,
  changes: readonly FileChange[],
): Promise<PicturesSeen | null> {
  if (!asksForPictures(await mapOf(deps.db, project), after.build)) return null;
  const pair = { projectId: project.id, before: before.artifact, after: after.artifact };
  const known = await picturesOf(deps.db, pair);
  if (known !== undefined) {
    const { state, endedAt } = known;
    const isOver = state !== 'failed' || deps.clock() - (endedAt ?? 0) < againAfterMs;
    if (isOver) return viewPictures(known);
    await wantAgain(deps.db, known);
    deps.queueNudge.ring();
    return viewPictures({ ...known, state: 'wanted', why: null });
  }
  const { files, entry } = after.manifest.site;
  const pages = pagesToPicture(changes, files, entry).slice(0, mostPictured);
  if (pages.length === 0) return { state: 'none', id: null, why: null, pages: [] };
  const wantedAt = deps.clock();
  const now = after.build.committedAt as Instant;
  await insertWanted(deps.db, { ...pair, id: deps.newId(), pages, now, wantedAt });
  deps.queueNudge.ring();
  const row = await picturesOf(deps.db, pair);
  return row === undefined ? null : viewPictures(row);
}

function viewPictures({ id, state, why, pages, taken }: PicturesRow): PicturesSeen {
  const byPlace = new Map((taken ?? []).map((one) => [one.place, one]));
  return {
    state,
    id,
    why,
    pages: pages.map((page, place) => {
      const one = byPlace.get(place);
      const sides = [...(one?.sides ?? [])];
      return { ...page, place, share: one?.share ?? null, sides, why: one?.why ?? null };
    }),
  };
}

/** Lets go of pictures that are older than anybody decides by. */
export async function sweepPictures(deps: Deps): Promise<void> {
  for (const id of await forgetWantedBefore(deps.db, later(deps.clock(), -keptMs)))
    await removeImages(deps.config.stateDirectory, id);
}
