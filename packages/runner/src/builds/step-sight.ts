import { chmod, chown, mkdir, rmdir, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { cleanPath, fixedPart, isPattern, matchesPath, type RecipeStep } from '@vaquero/core';
import { listFiles } from '../artifacts/walk-output.ts';
import type { Output } from '../outputs/output-store.ts';
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
    home: join(directory, 'home'),
    temporary: join(directory, 'tmp'),
  };
  for (const path of [directory, folders.out]) await mkdir(path, { mode: 0o711 });
  const own = writtenPaths(step).map((_, place) => join(folders.out, String(place)));
  for (const path of [folders.home, folders.temporary, ...own]) {
    await mkdir(path, { mode: 0o700 });
    if (slot.uid !== null) await chown(path, slot.uid, slot.uid);
    await chmod(path, 0o755);
  }
  return folders;
}

/**
 * What a step that says what it reads sees: those paths of the source read-only, what the steps before it
 * wrote read-only, and its own written paths, empty at first. Nothing else of the build is there, so that
 * what a reused result hangs on is what its key was made of.
 */
export async function ownSight(
  source: string,
  step: RecipeStep,
  before: readonly HandedOn[],
  own: OwnFolders,
  caches: readonly Mount[],
): Promise<Sight> {
  const writes = writtenPaths(step).map((path, place) => ({
    from: join(own.out, String(place)),
    at: inside(path),
    writable: true,
  }));
  const folder = step.in === null ? '/build' : inside(step.in);
  return {
    tree: 'hidden',
    mounts: [
      ...(await readMounts(source, step.reads ?? [])),
      ...handedMounts(before),
      ...writes,
      ...caches,
    ],
    home: own.home,
    temporary: own.temporary,
    folder,
  };
}

/** Read-only mounts of what earlier steps wrote, each at its path. */
export function handedMounts(before: readonly HandedOn[]): readonly Mount[] {
  return before.flatMap(({ writes, output }) =>
    writes.map((path, place) => ({
      from: output.folder(place),
      at: inside(path),
      writable: false,
    })),
  );
}

/** Folders that mounts need inside a tree that is mounted itself. */
export async function makeMountPoints(
  tree: string,
  slot: Slot,
  paths: readonly string[],
): Promise<void> {
  for (const path of paths) {
    if (path === '.') continue;
    const parts = path.split('/');
    for (let length = 1; length <= parts.length; length += 1) {
      const at = join(tree, ...parts.slice(0, length));
      const made = await mkdir(at).then(
        () => true,
        (error: NodeJS.ErrnoException) => {
          if (error.code === 'EEXIST') return false;
          throw error;
        },
      );
      if (made && slot.uid !== null) await chown(at, slot.uid, slot.uid);
    }
  }
}

/** Takes the folders away again: Git knows no empty one, so that each was made for a mount. */
export async function removeMountPoints(tree: string, paths: readonly string[]): Promise<void> {
  for (const path of paths) {
    for (let at = path; at !== '.'; at = dirname(at)) {
      const isGone = await rmdir(join(tree, at)).then(
        () => true,
        (error: NodeJS.ErrnoException) => {
          if (error.code === 'ENOENT') return true;
          if (error.code === 'ENOTEMPTY' || error.code === 'ENOTDIR') return false;
          throw error;
        },
      );
      if (!isGone) break;
    }
  }
}

async function readMounts(source: string, reads: readonly string[]): Promise<readonly Mount[]> {
  const mounts: Mount[] = [];
  let all: readonly string[] | null = null;
  for (const read of reads) {
    if (isPattern(read)) {
      all ??= await listFiles(source, 200_000);
      for (const path of all.filter((each) => matchesPath(read, each)))
        mounts.push({ from: join(source, path), at: inside(path), writable: false });
      continue;
    }
    const path = cleanPath(read);
    const there = await stat(join(source, path)).catch(() => null); // What the commit does not hold is written by an earlier step, or absent for this step too.
    if (there !== null)
      mounts.push({ from: join(source, path), at: inside(path), writable: false });
  }
  // A folder comes before what lies in it, or it would cover that.
  return mounts.toSorted((a, b) => a.at.split('/').length - b.at.split('/').length);
}

function inside(path: string): string {
  const clean = cleanPath(path);
  return clean === '.' ? '/build' : `/build/${clean}`;
}
