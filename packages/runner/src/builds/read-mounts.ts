import { closeSync } from 'node:fs';
import { cleanPath, isPattern, matchesPath } from '@vaquero/core';
import { findBeneath, openFolder } from '../descriptors/beneath.ts';
import { listBeneath } from '../descriptors/list-beneath.ts';
import type { StepLayers } from '../sources/step-layers.ts';
import type { Mount } from '../walls/wall-arguments.ts';
import { inside, type SightFault } from './places.ts';

/** What bubblewrap takes at once, with room for its other arguments (bwrap(1): 9,000 in all, three a mount). */
const mostMounts = 2500;

/** What a step reads of a source, each path or match mounted by what was found there. Adds what it opened to `opened`. */
export function readMounts(
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
export type ReadMount =
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

function depthOf({ at }: Mount): number {
  return at.split('/').length;
}

/** Whether a link at a path of the tree names a place outside of it. */
function leadsOut(path: string, target: string): boolean {
  if (target.startsWith('/')) return true;
  let depth = path.split('/').length - 1;
  for (const part of target.split('/')) {
    if (part === '..') depth -= 1;
    else if (part !== '' && part !== '.') depth += 1;
    if (depth < 0) return true;
  }
  return false;
}

/** The folders among what a step reads, below layers, so that what it writes there goes with the step. */
export async function belowLayers(
  found: readonly ReadMount[],
  layers: StepLayers | null,
): Promise<readonly Mount[]> {
  const mounts: Mount[] = [];
  for (const mount of found) {
    const isShown = 'isFolder' in mount && mount.isFolder && layers?.hasRoom() === true;
    mounts.push(
      isShown ? await layers.show(mount.descriptor, cleanPath(`.${mount.at.slice(6)}`)) : mount,
    );
  }
  return mounts;
}
