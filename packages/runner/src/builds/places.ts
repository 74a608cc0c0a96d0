import { closeSync } from 'node:fs';
import { cleanPath, type StepEnd } from '@vaquero/core';
import { type Beneath, lookBeneath, openFolder } from '../descriptors/beneath.ts';

/** What a step would see cannot be shown to it: what stands in the way, as the second half of a sentence. */
export interface SightFault {
  readonly fault: string;
  readonly at: Extract<StepEnd, { kind: 'paths' }>['at'];
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

/** Where a build sees a path of its tree. */
export function inside(path: string): string {
  const clean = cleanPath(path);
  return clean === '.' ? '/build' : `/build/${clean}`;
}
