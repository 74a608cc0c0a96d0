import { closeSync } from 'node:fs';
import { chmod, chown, mkdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import {
  cleanPath,
  fixedPart,
  isPattern,
  matchesPath,
  type RecipeStep,
  type StepEnd,
} from '@vaquero/core';
import { type Beneath, findBeneath, lookBeneath, openFolder } from '../descriptors/beneath.ts';
import { listBeneath } from '../descriptors/list-beneath.ts';
import type { Output } from '../outputs/output-store.ts';
import type { StepLayers } from '../sources/step-layers.ts';
import type { Slot, Workplace } from '../walls/slot.ts';
import type { Mount, Sight } from '../walls/wall-arguments.ts';

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

/** What a step would see cannot be shown to it: what stands in the way, as the second half of a sentence. */
export interface SightFault {
  readonly fault: string;
  readonly at: Extract<StepEnd, { kind: 'paths' }>['at'];
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
  const reads = await layered(found, layers);
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
        layers === null
          ? { descriptor, at: inside(path) }
          : await layers.show(descriptor, cleanPath(path)),
      );
    }
  }
  return mounts;
}

/** So many folders of a commit are shown below layers of their own; more can only be read. */
const mostLayers = 32;

/** The folders among what a step reads, below layers, so that what it writes there goes with the step. */
async function layered(
  found: readonly ReadMount[],
  layers: StepLayers | null,
): Promise<readonly Mount[]> {
  const folders = found.filter((mount) => 'isFolder' in mount && mount.isFolder);
  const shown = new Set(layers === null ? [] : folders.slice(0, mostLayers));
  const mounts: Mount[] = [];
  for (const mount of found) {
    const isShown = layers !== null && 'descriptor' in mount && shown.has(mount);
    mounts.push(
      isShown ? await layers.show(mount.descriptor, cleanPath(`.${mount.at.slice(6)}`)) : mount,
    );
  }
  return mounts;
}

/** Where folders are to be mounted over a tree: those that are not there yet, or what stands in the way of one. */
export interface Places {
  readonly absent: readonly string[];
  readonly fault: SightFault | null;
}

/** Looks for places in a tree. A link on the way to one would lead the mount out of it. */
export function placesIn(tree: string, paths: readonly string[]): Places {
  const root = openFolder(tree);
  const absent: string[] = [];
  try {
    for (const path of new Set(paths)) {
      if (path === '.') continue;
      const found = lookBeneath(root, path);
      if (found.kind === 'absent') absent.push(path);
      else if (found.kind !== 'folder')
        return {
          absent: [],
          fault: {
            fault: `"${path}" is written, and ${standsThere(found)}`,
            at: { key: 'writes', path },
          },
        };
    }
    return { absent, fault: null };
  } finally {
    closeSync(root);
  }
}

function standsThere(found: Beneath): string {
  if (found.kind === 'through-link')
    return `"${found.at}" on the way to it is a link; name the folder that it leads to`;
  return found.kind === 'link'
    ? 'it is a link; name the folder that it leads to'
    : 'it is no folder; name a folder';
}

/** What bubblewrap takes at once, with room for its other arguments (bwrap(1): 9,000 in all, three a mount). */
const mostMounts = 2500;

function readMounts(
  source: string,
  reads: readonly string[],
  opened: number[],
): readonly ReadMount[] | SightFault {
  const root = openFolder(source);
  try {
    const mounts = new Map<string, ReadMount>();
    let all: readonly string[] | null = null;
    for (const read of reads) {
      all ??= isPattern(read) ? listBeneath(source, 200_000) : null;
      const paths = isPattern(read)
        ? (all ?? []).filter((each) => matchesPath(read, each))
        : [cleanPath(read)];
      for (const path of paths) {
        const mount = readMount(root, path, opened);
        if (mount !== null && 'fault' in mount)
          return {
            fault: `it reads "${read}", and ${mount.fault}`,
            at: { key: 'reads', path: read },
          };
        if (mount !== null) mounts.set(mount.at, mount);
      }
    }
    if (mounts.size > mostMounts)
      return {
        fault: `its reads name ${mounts.size} files one by one, and at most ${mostMounts} can be shown so: name their folder instead of a pattern`,
        at: null,
      };
    // A folder comes before what lies in it, or it would cover that.
    const ordered = [...mounts.values()].toSorted((a, b) => depthOf(a) - depthOf(b));
    // A link in a folder that is shown is there already.
    return ordered.filter(
      (mount) =>
        !('link' in mount) ||
        !ordered.some((other) => 'descriptor' in other && mount.at.startsWith(`${other.at}/`)),
    );
  } finally {
    closeSync(root);
  }
}

/** A mount of what a commit holds. */
type ReadMount =
  | Extract<Mount, { link: string }>
  | (Extract<Mount, { descriptor: number }> & { readonly isFolder: boolean });

/** Null for what the commit does not hold: it is written by an earlier step, or absent for this step too. */
function readMount(
  root: number,
  path: string,
  opened: number[],
): ReadMount | Pick<SightFault, 'fault'> | null {
  const found = findBeneath(root, path);
  switch (found.kind) {
    case 'absent':
      return null;
    case 'special':
      return { fault: `"${path}" is no file and no folder` };
    case 'through-link':
      return {
        fault: `"${found.at}" on the way to it is a link; name what it leads to`,
      };
    case 'link':
      return leadsOut(path, found.target)
        ? { fault: `"${path}" is a link that leads out of the tree, to "${found.target}"` }
        : { link: found.target, at: inside(path) };
    case 'file':
    case 'folder':
      opened.push(found.descriptor);
      return {
        descriptor: found.descriptor,
        at: inside(path),
        isFolder: found.kind === 'folder',
      };
  }
}

/** Whether a link at a path of the tree names a place outside of it. */
export function leadsOut(path: string, target: string): boolean {
  if (target.startsWith('/')) return true;
  let depth = path.split('/').length - 1;
  for (const part of target.split('/')) {
    if (part === '..') depth -= 1;
    else if (part !== '' && part !== '.') depth += 1;
    if (depth < 0) return true;
  }
  return false;
}

function depthOf({ at }: Mount): number {
  return at.split('/').length;
}

function inside(path: string): string {
  const clean = cleanPath(path);
  return clean === '.' ? '/build' : `/build/${clean}`;
}
