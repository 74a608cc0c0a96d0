import { closeSync } from 'node:fs';
import { chmod, chown, mkdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { cleanPath, fixedPart, isPattern, matchesPath, type RecipeStep } from '@vaquero/core';
import { findBeneath, lookBeneath, openFolder } from '../descriptors/beneath.ts';
import type { Output } from '../outputs/output-store.ts';
import type { StepLayers } from '../sources/step-layers.ts';
import type { Slot, Workplace } from '../walls/slot.ts';
import type { Mount, Sight } from '../walls/wall-arguments.ts';
import { inside, placesIn, type SightFault } from './places.ts';
import { belowLayers, readMounts } from './read-mounts.ts';

/** What a step before this one handed on: the paths it writes, and where they lie. */
export interface HandedOn {
  readonly writes: readonly string[];
  readonly output: Output;
}

/** Folders of the host that a step which says what it writes is given anew for each try. */
export interface OwnFolders {
  readonly directory: string;
  readonly out: string;
  /** What lies under all that it is shown: programs that leave something beside it find a place. */
  readonly under: string;
  readonly home: string;
  readonly temporary: string;
}

/** All paths that a step writes: those it says, and the folders of the reports it makes. */
export function writtenPaths(step: RecipeStep): readonly string[] {
  const reports = [...step.results.tests, ...step.results.findings].map((path) =>
    isPattern(path) ? fixedPart(path) : cleanPath(dirname(path)),
  );
  const own = (step.writes ?? []).map(cleanPath);
  const extra = reports.filter(
    (path) => path !== '.' && !own.some((write) => matchesPath(write, path)),
  );
  return [...new Set([...own, ...extra])];
}

/** Makes the folders of one try of a step, owned by the slot's uid. */
export async function makeOwnFolders(
  workplace: Workplace,
  slot: Slot,
  step: RecipeStep,
  tried: number,
): Promise<OwnFolders> {
  const directory = join(workplace.directory, `step-${step.name}-${tried}`);
  const folders = {
    directory,
    out: join(directory, 'out'),
    under: join(directory, 'under'),
    home: join(directory, 'home'),
    temporary: join(directory, 'tmp'),
  };
  for (const path of [directory, folders.out]) await mkdir(path, { mode: 0o711 });
  const own = writtenPaths(step).map((_, place) => join(folders.out, String(place)));
  for (const path of [folders.home, folders.temporary, folders.under, ...own]) {
    await mkdir(path, { mode: 0o700 });
    if (slot.uid !== null) await chown(path, slot.uid, slot.uid);
    await chmod(path, 0o755);
  }
  return folders;
}

/**
 * What a step that says what it reads sees: those paths of the source read-only, what the steps before it
 * wrote read-only, and its own written paths, empty at first. Nothing else of the build is there, so that
 * what a reused result hangs on is what its key was made of. A committed link is seen as a link.
 */
export async function ownSight(
  source: string,
  step: RecipeStep,
  before: readonly HandedOn[],
  own: OwnFolders,
  { caches, layers }: Around,
): Promise<Sight | SightFault> {
  const opened: number[] = [];
  const release = (): void => {
    for (const descriptor of opened.splice(0)) closeSync(descriptor);
  };
  const found = readMounts(source, step.reads ?? [], opened);
  const handed = 'fault' in found ? found : await handedMounts(before, opened, layers);
  if ('fault' in found || 'fault' in handed) {
    release();
    return 'fault' in found ? found : (handed as SightFault);
  }
  const reads = await belowLayers(found, layers);
  const writes = writtenPaths(step).map((path, place) => ({
    from: join(own.out, String(place)),
    at: inside(path),
    writable: true,
  }));
  return {
    tree: 'hidden',
    under: own.under,
    mounts: [...reads, ...handed, ...writes, ...caches],
    home: own.home,
    temporary: own.temporary,
    folder: step.in === null ? '/build' : inside(step.in),
    release,
  };
}

/**
 * The whole tree, which a step that does not say what it reads and writes shares with others of its kind, and over it
 * what the steps before it wrote.
 */
export async function sharedSight(
  { tree, home, temporary }: Workplace,
  step: RecipeStep,
  before: readonly HandedOn[],
  { caches, layers }: Around,
): Promise<Sight | SightFault> {
  const opened: number[] = [];
  const release = (): void => {
    for (const descriptor of opened.splice(0)) closeSync(descriptor);
  };
  const paths = [...before.flatMap((each) => each.writes), ...cachesInTree(step)];
  const { fault } = placesIn(tree, paths);
  const handed = fault === null ? await handedMounts(before, opened, layers) : fault;
  if ('fault' in handed) {
    release();
    return handed;
  }
  return {
    tree: 'writable',
    under: null,
    mounts: [...handed, ...caches],
    home,
    temporary,
    folder: step.in === null ? '/build' : inside(step.in),
    release,
  };
}

/** What a step finds around what is its own: kept folders, and layers, null where the machine shows none. */
export interface Around {
  readonly caches: readonly Mount[];
  readonly layers: StepLayers | null;
}

/** The kept folders of a step that lie in the tree. */
export function cachesInTree(step: RecipeStep): readonly string[] {
  return step.caches.filter((path) => !path.startsWith('~')).map(cleanPath);
}

/** A kept folder goes where the recipe says, and nowhere that a link of an earlier step leads it. */
export function cacheFault(step: RecipeStep, before: readonly HandedOn[]): SightFault | null {
  for (const cache of cachesInTree(step))
    for (const { writes, output } of before) {
      const place = writes.findIndex((write) => matchesPath(write, cache));
      const write = writes[place];
      if (write === undefined) continue;
      const root = openFolder(output.folder(place));
      try {
        const { kind } = lookBeneath(root, cache.slice(write.length));
        if (kind !== 'absent' && kind !== 'folder')
          return {
            fault: `"${cache}" is to be kept, and an earlier step wrote a link or a file there`,
            at: null,
          };
      } finally {
        closeSync(root);
      }
    }
  return null;
}

/** What earlier steps wrote, each at its path, below a layer or read-only. Adds what it opened to `opened`. */
async function handedMounts(
  before: readonly HandedOn[],
  opened: number[],
  layers: StepLayers | null,
): Promise<readonly Mount[] | SightFault> {
  const mounts: Mount[] = [];
  for (const { writes, output } of before) {
    const root = openFolder(output.root);
    opened.push(root);
    for (const [place, path] of writes.entries()) {
      const found = findBeneath(root, String(place));
      if (found.kind !== 'folder')
        return { fault: `the output kept for "${path}" is no folder`, at: null };
      opened.push(found.descriptor);
      const { descriptor } = found;
      mounts.push(
        layers?.hasRoom() === true
          ? await layers.show(descriptor, cleanPath(path))
          : { descriptor, at: inside(path) },
      );
    }
  }
  return mounts;
}
