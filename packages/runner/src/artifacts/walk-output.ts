import { lstat, readdir, readlink, realpath } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { type BuildFailure, readSitePath } from '@vaquero/core';

/** A file of the output: where it stands in the artifact, and the file on disk that holds its bytes. */
export interface OutputFile {
  readonly path: string;
  readonly source: string;
  readonly executable: boolean;
}

/** The files of an output folder, or why it cannot be published. */
export type Walked =
  | { readonly ok: true; readonly files: readonly OutputFile[] }
  | { readonly ok: false; readonly failure: BuildFailure };

/**
 * Walks an output folder after everything that wrote it has ended. Links inside the output become the
 * files they lead to; a link that leaves it, a special file or a name without an address ends the walk.
 */
export async function walkOutput(root: string): Promise<Walked> {
  const files: OutputFile[] = [];
  const real = await realpath(root);
  const failure = await walkFolder(real, real, '', files, 0);
  return failure === null ? { ok: true, files } : { ok: false, failure };
}

const deepest = 64;

async function walkFolder(
  real: string,
  folder: string,
  at: string,
  files: OutputFile[],
  depth: number,
): Promise<BuildFailure | null> {
  // A link to a folder above itself would be walked without end; so deep a site has no honest cause.
  if (depth > deepest)
    return { reason: 'bad-name', path: at, fault: `is over ${deepest} folders deep` };
  // Names are read as bytes, so that one which is not UTF-8 is told and not mangled.
  for (const bytes of (await readdir(folder, { encoding: 'buffer' })).sort(Buffer.compare)) {
    const name = bytes.toString('utf8');
    const path = at === '' ? name : `${at}/${name}`;
    const valid = Buffer.from(name).equals(bytes)
      ? readSitePath(path)
      : { fault: 'is not valid UTF-8' };
    if ('fault' in valid) return { reason: 'bad-name', path, fault: valid.fault };
    const failure = await walkEntry(real, join(folder, name), path, files, depth);
    if (failure !== null) return failure;
  }
  return null;
}

async function walkEntry(
  real: string,
  onDisk: string,
  path: string,
  files: OutputFile[],
  depth: number,
): Promise<BuildFailure | null> {
  const stat = await lstat(onDisk);
  if (stat.isFile()) {
    files.push({ path, source: onDisk, executable: (stat.mode & 0o100) !== 0 });
    return null;
  }
  if (stat.isDirectory()) return walkFolder(real, onDisk, path, files, depth + 1);
  if (!stat.isSymbolicLink()) return { reason: 'special-file', path, kind: kindOf(stat) };
  const target = await realpath(onDisk).catch(() => null);
  const shown = await readlink(onDisk);
  if (target === null || (target !== real && !target.startsWith(real + sep)))
    return { reason: 'link-leaves', path, target: shown };
  return walkEntry(real, target, path, files, depth + 1);
}

function kindOf(stat: {
  isFIFO: () => boolean;
  isSocket: () => boolean;
  isBlockDevice: () => boolean;
}): string {
  if (stat.isFIFO()) return 'named pipe';
  if (stat.isSocket()) return 'socket';
  return stat.isBlockDevice() ? 'block device' : 'character device';
}

/** Paths of all files below a folder, relative to it; links are not followed. At most `most`. */
export async function listFiles(root: string, most: number): Promise<readonly string[]> {
  const paths: string[] = [];
  const open = [root];
  for (let at = open.pop(); at !== undefined && paths.length < most; at = open.pop()) {
    for (const entry of await readdir(at, { withFileTypes: true })) {
      const path = join(at, entry.name);
      if (entry.isDirectory() && entry.name !== 'node_modules' && entry.name !== '.git')
        open.push(path);
      else if (entry.isFile()) paths.push(relative(root, path));
    }
  }
  return paths;
}
