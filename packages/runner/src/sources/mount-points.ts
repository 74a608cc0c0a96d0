import { Readable } from 'node:stream';
import { cleanPath, isReusable, matchesPath, type RecipeStep, stepsBefore } from '@vaquero/core';
import type { BuildAt } from '../builds/build-at.ts';
import { placesIn } from '../builds/places.ts';
import { writtenPaths } from '../builds/step-sight.ts';
import { inTree, mustEndWell } from './in-tree.ts';

const removeWithinMs = 60_000;

/** Folders that were made in a tree for mounts to stand on. */
export interface MountPoints {
  /** Takes them away again: Git knows no empty one, so that each was made for a mount. */
  readonly remove: () => Promise<void>;
}

/**
 * Makes the folders that mounts need inside a tree that is shown read-only: where a step reads what lies around what
 * it, or a step before it, writes. By the build's own uid behind the walls, and before any step runs.
 */
export async function makeMountPoints(
  at: BuildAt,
  tree: string,
  order: readonly RecipeStep[],
): Promise<MountPoints> {
  const wanted = at.withoutWalls ? [] : coveredPlaces(order);
  // A place that cannot be had is told to the step that wants it.
  const absent = wanted.flatMap((path) => placesIn(tree, [path]).absent);
  if (absent.length > 0)
    await inFolders(at, tree, absent, 'mkdir -p -m 755', 'folders for mounts could not be made');
  return {
    remove: async () => {
      if (absent.length === 0) return;
      const remove = 'rmdir -p --ignore-fail-on-non-empty';
      // The attempt may be over for the api by now, which stops its steps; the tree is the next build's, and is left as it was.
      const signal = AbortSignal.timeout(removeWithinMs);
      await inFolders(
        { ...at, signal },
        tree,
        absent,
        remove,
        'folders for mounts could not be removed',
      );
    },
  };
}

async function inFolders(
  at: BuildAt,
  folder: string,
  paths: readonly string[],
  command: string,
  what: string,
): Promise<void> {
  const ended = await inTree(at, {
    command: ['/bin/sh', '-c', `xargs -0 ${command} --`],
    tree: { folder, isWritable: true },
    input: Readable.from([Buffer.from(paths.map((path) => `${path}\0`).join(''))]),
    hear: (bytes) => at.log.say(bytes, 'fetch'),
  });
  mustEndWell(ended, what);
}

/** The places that a step's reads cover: there, bubblewrap can make no folder by itself. */
function coveredPlaces(order: readonly RecipeStep[]): readonly string[] {
  const before = stepsBefore(order);
  const written = new Map(
    order.map((step) => [step.name, isReusable(step) ? writtenPaths(step) : []]),
  );
  const places = order.filter(isReusable).flatMap((step) => {
    const names = [step.name, ...(before.get(step.name) ?? [])];
    return names
      .flatMap((name) => written.get(name) ?? [])
      .filter((path) =>
        step.reads.some((read) => path !== cleanPath(read) && matchesPath(read, path)),
      );
  });
  return [...new Set(places)];
}
