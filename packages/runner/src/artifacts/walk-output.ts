import { closeSync, type Dirent, readdirSync, readlinkSync, type Stats } from 'node:fs';
import { type BuildFailure, readSitePath } from '@vaquero/core';
import { findBeneath, inFolder, openFolder } from '../descriptors/beneath.ts';
import { entriesOf } from '../descriptors/list-beneath.ts';
import { followBeneath } from '../descriptors/reach.ts';
import type { SealedFile } from '../outputs/seal-folder.ts';

/** A file of the output: where it stands in the artifact, and where below the walked root its bytes lie, without a link on the way. */
export interface OutputFile {
  readonly path: string;
  readonly source: string;
  /** It stays where it is: the store gets a copy of it. */
  readonly stays?: true;
  /** What is known of its bytes, because nobody can change them any more. */
  readonly sealed?: SealedFile;
}

/** The files of an output folder, or why it cannot be published. */
export type Walked =
  | { readonly ok: true; readonly files: readonly OutputFile[] }
  | { readonly ok: false; readonly failure: BuildFailure };

/**
 * Walks the folder of an output, which `site` names below a root, after everything that wrote it has ended. Each folder is entered from the
 * one above by its descriptor. Links inside the output become the files they lead to; a link that leaves it, a special file or a name without
 * an address ends the walk. Synchronous: 2,000 files take 15 ms so, and 100 with a promise for each.
 */
export function walkOutput(root: string, site = ''): Walked {
  const top = openFolder(root);
  try {
    const walk: Walk = { top, site, files: [], seen: 0 };
    const failure = walkBeneath(walk, site, '', 0);
    return failure === null ? { ok: true, files: walk.files } : { ok: false, failure };
  } finally {
    closeSync(top);
  }
}

/** The same for a folder whose files are known by a list: nothing of the disk is read. */
export function walkList(site: string, listed: readonly SealedFile[]): Walked {
  const files: OutputFile[] = [];
  for (const sealed of listed) {
    const { path } = sealed;
    const valid = readSitePath(path);
    const fault =
      'fault' in valid ? valid.fault : path.split('/').length > deepest + 1 ? tooDeep : null;
    if (fault !== null) return { ok: false, failure: { reason: 'bad-name', path, fault } };
    files.push({ path, source: below(site, path), sealed });
  }
  return { ok: true, files };
}

const deepest = 64;
/** As many as an artifact may have (the contract's proposal). */
const mostFiles = 200_000;
/** Where a link ends is asked of the disk, folder by folder. */
const linkWeight = 20;
const tooDeep = `is over ${deepest} folders deep`;

/** A walk under way. Thirty folders of two links each make 2^30 names: what was seen counts, not only files. */
interface Walk {
  /** The root's descriptor, and the site below it, which no link may leave. */
  readonly top: number;
  readonly site: string;
  readonly files: OutputFile[];
  seen: number;
}

/** Walks a folder that is found from the root: the site itself, or what a link leads to. */
function walkBeneath(walk: Walk, source: string, path: string, depth: number): BuildFailure | null {
  const found = findBeneath(walk.top, source);
  if (found.kind !== 'folder') throw new Error(`${source} is no folder any more`);
  return walkFolder(walk, { descriptor: found.descriptor, source, path, depth });
}

/** An open folder: where it lies below the root, and where it stands in the artifact. */
interface Folder {
  readonly descriptor: number;
  readonly source: string;
  readonly path: string;
  readonly depth: number;
}

/** Walks an open folder, and closes it. */
function walkFolder(walk: Walk, folder: Folder): BuildFailure | null {
  try {
    // A link to a folder above itself would be walked without end; so deep a site has no honest cause.
    if (folder.depth > deepest) return { reason: 'bad-name', path: folder.path, fault: tooDeep };
    const entries = entriesOf(folder.descriptor);
    // A name that is not UTF-8 comes with marks in it; read as bytes it is told from one that bears such marks itself.
    const isMarked = entries.some((entry) => entry.name.includes('\uFFFD'));
    const mangled = isMarked ? mangledIn(folder.descriptor) : [];
    for (const entry of entries.toSorted((a, b) => (a.name < b.name ? -1 : 1))) {
      const path = below(folder.path, entry.name);
      const valid = mangled.includes(entry.name)
        ? { fault: 'is not valid UTF-8' }
        : readSitePath(path);
      if ('fault' in valid) return { reason: 'bad-name', path, fault: valid.fault };
      // Walked in one go: what is more than can be published would only hold up the builds beside it.
      walk.seen += entry.isSymbolicLink() ? linkWeight : 1;
      if (walk.files.length > mostFiles || walk.seen > 2 * mostFiles)
        return { reason: 'store', why: `the output holds over ${mostFiles} files` };
      const failure = walkEntry(walk, folder, entry, path);
      if (failure !== null) return failure;
    }
    return null;
  } finally {
    closeSync(folder.descriptor);
  }
}

/** Names in a folder that are not UTF-8, as they come out when they are read as if they were. */
function mangledIn(folder: number): readonly string[] {
  return readdirSync(inFolder(folder, '.'), { encoding: 'buffer' }).flatMap((bytes) => {
    const name = bytes.toString('utf8');
    return Buffer.from(name).equals(bytes) ? [] : [name];
  });
}

function walkEntry(walk: Walk, folder: Folder, entry: Dirent, path: string): BuildFailure | null {
  const source = below(folder.source, entry.name);
  const at = inFolder(folder.descriptor, entry.name);
  if (entry.isFile()) {
    walk.files.push({ path, source });
    return null;
  }
  if (entry.isDirectory()) {
    const descriptor = openFolder(at);
    return walkFolder(walk, { descriptor, source, path, depth: folder.depth + 1 });
  }
  if (!entry.isSymbolicLink()) return { reason: 'special-file', path, kind: kindOf(entry) };
  const target = readlinkSync(at);
  const end = followBeneath(walk.top, source);
  if (!('path' in end) || !isWithin(end.path, walk.site))
    return { reason: 'link-leaves', path, target };
  if (end.kind === 'folder') return walkBeneath(walk, end.path, path, folder.depth + 1);
  if (end.kind === 'special') return { reason: 'special-file', path, kind: kindOf(end.stats) };
  walk.files.push({ path, source: end.path });
  return null;
}

/** The path of a name in a folder; that of the root itself is empty. */
function below(folder: string, name: string): string {
  return folder === '' ? name : `${folder}/${name}`;
}

function isWithin(path: string, folder: string): boolean {
  return folder === '' || path === folder || path.startsWith(`${folder}/`);
}

function kindOf(stat: Pick<Stats, 'isFIFO' | 'isSocket' | 'isBlockDevice'>): string {
  if (stat.isFIFO()) return 'named pipe';
  if (stat.isSocket()) return 'socket';
  return stat.isBlockDevice() ? 'block device' : 'character device';
}
