import { closeSync, type Stats } from 'node:fs';
import { type Beneath, enter, inFolder, lookBeneath, openFolder } from './beneath.ts';

/** Places below a folder of our own, each reached from its folder's descriptor, none through a link. */
export interface Reach {
  /** By what name the system finds the place at a path; null where a folder on the way is absent, or a link. */
  readonly to: (path: string) => string | null;
  /** The same where there must be one. Throws where there is none. */
  readonly must: (path: string) => string;
  readonly close: () => void;
}

/**
 * Reaches below a folder. The folders on the way to the place reached last stay open: thousands of neighbours cost
 * little more than by their paths. Whoever moves folders meanwhile reaches anew.
 */
export function reachBelow(root: string): Reach {
  /** Folders from the root to the one reached last. */
  const open: { readonly name: string; readonly descriptor: number }[] = [
    { name: '', descriptor: openFolder(root) },
  ];
  const leave = (depth: number): void => {
    for (const { descriptor } of open.splice(depth)) closeSync(descriptor);
  };
  const to = (path: string): string | null => {
    const names = path.split('/').filter((name) => name !== '' && name !== '.');
    const last = names.pop() ?? '.';
    let depth = 1;
    while (depth <= names.length && open[depth]?.name === names[depth - 1]) depth += 1;
    leave(depth);
    for (const name of names.slice(depth - 1)) {
      const next = name === '..' ? 'absent' : enter(inside(open), name);
      if (typeof next !== 'number') return null;
      open.push({ name, descriptor: next });
    }
    return last === '..' ? null : inFolder(inside(open), last);
  };
  return {
    to,
    must: (path) => {
      const place = to(path);
      if (place === null) throw new Error(`${path} is not in a folder of this tree`);
      return place;
    },
    close: () => leave(0),
  };
}

function inside(open: readonly { readonly descriptor: number }[]): number {
  const here = open.at(-1);
  if (here === undefined) throw new Error('nothing is reached any more');
  return here.descriptor;
}

/** Where a path ends once its links are followed: a path without links, or why it ends nowhere below the folder. */
export type Followed =
  | { readonly kind: 'folder' | 'file'; readonly path: string }
  | { readonly kind: 'special'; readonly path: string; readonly stats: Stats }
  | { readonly kind: 'leaves' | 'nowhere' };

/** As many as the kernel follows. Source: path_resolution(7). */
const mostLinks = 40;

/**
 * Follows a path below an open folder as the kernel would, but never out of the folder: the path is taken apart here
 * and each component is looked at from its folder's descriptor. An absolute link leaves.
 */
export function followBeneath(root: number, path: string): Followed {
  const ahead = path.split('/').toReversed();
  const way: string[] = [];
  let links = 0;
  for (let name = ahead.pop(); name !== undefined; name = ahead.pop()) {
    if (name === '' || name === '.') continue;
    if (name === '..') {
      if (way.pop() === undefined) return { kind: 'leaves' };
      continue;
    }
    const at = [...way, name].join('/');
    const found = lookBeneath(root, at);
    if (found.kind === 'folder') way.push(name);
    else if (found.kind !== 'link') return endAt(found, at, ahead);
    else if (found.target.startsWith('/')) return { kind: 'leaves' };
    else ahead.push(...found.target.split('/').toReversed());
    if (found.kind === 'link') links += 1;
    if (links > mostLinks) return { kind: 'nowhere' };
  }
  return { kind: 'folder', path: way.join('/') };
}

/** A file ends a path; what would lie below it is nowhere. */
function endAt(
  found: Exclude<Beneath, { kind: 'folder' | 'link' }>,
  path: string,
  ahead: readonly string[],
): Followed {
  if (ahead.some((rest) => rest !== '')) return { kind: 'nowhere' };
  if (found.kind === 'file') return { kind: 'file', path };
  return found.kind === 'special' ? { ...found, path } : { kind: 'nowhere' };
}
