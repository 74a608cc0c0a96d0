import { closeSync, constants, fstatSync, openSync, readlinkSync, type Stats } from 'node:fs';

/**
 * Opens a place without a right to what it holds: a pipe does not block, a device is not touched, and the descriptor
 * stands for that very inode whatever becomes of its path. Node does not name it. Source: open(2), asm-generic/fcntl.h.
 */
const placeOnly = 0o10000000;
const folderOnly = placeOnly | constants.O_DIRECTORY | constants.O_NOFOLLOW;

/** What lies at a path below a folder, looked for without following a link. Whoever asked closes the descriptor. */
export type Beneath =
  | { readonly kind: 'folder'; readonly descriptor: number; readonly stats: Stats }
  | { readonly kind: 'file'; readonly descriptor: number; readonly stats: Stats }
  | { readonly kind: 'link'; readonly target: string }
  /** A pipe, a socket, a device. */
  | { readonly kind: 'special'; readonly stats: Stats }
  | { readonly kind: 'absent' }
  /** A folder on the way to it is a link: `at` is its path. */
  | { readonly kind: 'through-link'; readonly at: string };

/** Opens a folder of our own. Throws where it is a link, or none. */
export function openFolder(path: string): number {
  return openSync(path, folderOnly);
}

/** The path by which the kernel finds what lies directly in an open folder, wherever that stands by now. Source: proc(5). */
export function inFolder(descriptor: number, name: string): string {
  return `/proc/self/fd/${descriptor}/${name}`;
}

/**
 * Finds what lies at a path below an open folder, component by component, none of them through a link. What is found
 * is the very thing that was judged: it may be moved or replaced afterwards, the descriptor stays with it.
 */
export function findBeneath(root: number, path: string): Beneath {
  const parts = path.split('/').filter((part) => part !== '' && part !== '.');
  if (parts.includes('..')) return { kind: 'absent' };
  const last = parts.pop();
  if (last === undefined) return opened(inFolder(root, '.'));
  let folder = root;
  try {
    for (const [place, part] of parts.entries()) {
      const next = enter(folder, part);
      if (typeof next !== 'number')
        return next === 'link'
          ? { kind: 'through-link', at: parts.slice(0, place + 1).join('/') }
          : { kind: 'absent' };
      if (folder !== root) closeSync(folder);
      folder = next;
    }
    return opened(inFolder(folder, last));
  } finally {
    if (folder !== root) closeSync(folder);
  }
}

/** What stands at a path, without keeping it open. */
export function lookBeneath(root: number, path: string): Beneath {
  const found = findBeneath(root, path);
  if ('descriptor' in found) closeSync(found.descriptor);
  return found;
}

/** Opens a folder directly in another one; what stands in its place otherwise. */
export function enter(folder: number, name: string): number | 'link' | 'absent' {
  try {
    return openSync(inFolder(folder, name), folderOnly);
  } catch (error) {
    const code = codeOf(error);
    if (code === 'ENOENT' || code === 'ENAMETOOLONG') return 'absent';
    // The kernel says of a link that it is no folder, as of a file.
    if (code !== 'ENOTDIR' && code !== 'ELOOP') throw error;
    return isLink(inFolder(folder, name)) ? 'link' : 'absent';
  }
}

function opened(path: string): Beneath {
  let descriptor: number;
  try {
    descriptor = openSync(path, placeOnly | constants.O_NOFOLLOW);
  } catch (error) {
    const code = codeOf(error);
    if (code === 'ENOENT' || code === 'ENAMETOOLONG' || code === 'ENOTDIR')
      return { kind: 'absent' };
    throw error;
  }
  const stats = fstatSync(descriptor);
  if (stats.isDirectory()) return { kind: 'folder', descriptor, stats };
  if (stats.isFile()) return { kind: 'file', descriptor, stats };
  closeSync(descriptor);
  return stats.isSymbolicLink()
    ? { kind: 'link', target: readlinkSync(path) }
    : { kind: 'special', stats };
}

function isLink(path: string): boolean {
  const found = opened(path);
  if ('descriptor' in found) closeSync(found.descriptor);
  return found.kind === 'link';
}

/** The system's word for what failed. */
export function codeOf(error: unknown): string | undefined {
  return error instanceof Error && 'code' in error ? String(error.code) : undefined;
}
