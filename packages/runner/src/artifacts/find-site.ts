import { lstat, realpath, stat } from 'node:fs/promises';
import { dirname, join, sep } from 'node:path';
import { type BuildFailure, cleanPath, matchesPath, type Serve, siteFolders } from '@vaquero/core';
import type { HandedOn } from '../builds/step-sight.ts';
import { listBeneath } from '../descriptors/list-beneath.ts';
import type { Output } from '../outputs/output-store.ts';
import type { SealedFile } from '../outputs/seal-folder.ts';
import type { Workplace } from '../walls/slot.ts';
import type { Layer } from './store-worker.ts';
import { type OutputFile, type Walked, walkList, walkOutput } from './walk-output.ts';

/** The output of a build as it will be published, or why there is none. */
export type Found =
  | {
      readonly ok: true;
      readonly site: string;
      readonly files: readonly OutputFile[];
    }
  | { readonly ok: false; readonly failure: BuildFailure };

/**
 * Finds the output in a build's tree: the folder the recipe names, or, while it names none, the one that
 * looks like a site. `before` are the paths that came with the commit; `handedOn` what steps wrote
 * outside the tree, where a named folder is looked for first.
 */
export async function findSite(
  { tree, layer, committed }: Pick<Workplace, 'tree' | 'layer' | 'committed'>,
  { site: named, entry, missing }: Serve,
  before: ReadonlySet<string>,
  handedOn: readonly HandedOn[] = [],
): Promise<Found> {
  const folders = () => siteFolders(listBeneath(tree, 200_000), entry, before);
  const site = named ?? folders()[0]?.folder ?? null;
  if (site === null)
    return { ok: false, failure: { reason: 'output-absent', site: null, folders: [] } };
  const handed = handedAt(cleanPath(site), handedOn) ?? (await writtenAnew(cleanPath(site), layer));
  const root = await realpath(handed?.path ?? join(tree, site)).catch(absent);
  const realTree = await realpath(handed?.root ?? tree);
  if (root !== null && root !== realTree && !root.startsWith(realTree + sep))
    return {
      ok: false,
      failure: { reason: 'link-leaves', path: site, target: 'outside the build' },
    };
  if (root === null || !(await stat(root)).isDirectory())
    return { ok: false, failure: { reason: 'output-absent', site, folders: folders() } };
  // The list of a sealed output says what a walk would find, unless links are to be followed.
  const listed =
    handed?.output == null ? null : await filesBelow(handed.output, dirname(realTree), root);
  const walked =
    listed !== null && handed?.output?.plain === true
      ? walkList(root, listed)
      : withSealed(walkOutput(root), listed);
  if (!walked.ok) return walked;
  // The folder of the project itself can be the site; its recipe and its Git files are not published then.
  const files =
    site === '.'
      ? walked.files.filter(
          (file) => file.path !== 'vaquero.yaml' && !file.path.startsWith('.vaquero/'),
        )
      : walked.files;
  if (files.length === 0)
    return { ok: false, failure: { reason: 'output-empty', site, folders: folders() } };
  const has = (path: string): boolean => files.some((file) => file.path === path);
  if (!has(entry))
    return {
      ok: false,
      failure: { reason: 'entry-absent', site, entry, folders: folders() },
    };
  if (missing !== null && !has(missing))
    return { ok: false, failure: { reason: 'missing-page-absent', site, missing } };
  return { ok: true, site, files: withStaying(files, realTree, committed) };
}

/** Marks the files of an output that came with the commit, in a tree that is kept. */
function withStaying(
  files: readonly OutputFile[],
  tree: string,
  committed: ReadonlySet<string> | null,
): readonly OutputFile[] {
  if (committed === null) return files;
  return files.map((file) =>
    committed.has(file.source.slice(tree.length + 1)) ? { ...file, stays: true } : file,
  );
}

/** Files of a sealed output that lie below one of its folders. */
async function filesBelow(
  output: Output,
  all: string,
  folder: string,
): Promise<readonly SealedFile[]> {
  const start = folder.slice(all.length + 1);
  return (await output.list())
    .filter((file) => file.path.startsWith(`${start}/`))
    .map((file) => ({ ...file, path: file.path.slice(start.length + 1) }));
}

/** Says of the files of a walk what is known of their bytes. A list names no links: what they lead to is read. */
function withSealed(walked: Walked, listed: readonly SealedFile[] | null): Walked {
  if (!walked.ok || listed === null) return walked;
  const known = new Map(listed.map((file) => [file.path, file]));
  return {
    ok: true,
    files: walked.files.map((file) => {
      const sealed = known.get(file.path);
      return sealed === undefined ? file : { ...file, sealed };
    }),
  };
}

/** A folder of the output on the host's disk. */
interface Lies {
  readonly path: string;
  /** What its links may not leave. */
  readonly root: string;
  readonly output: Output | null;
}

/**
 * Where a folder lies that the commit does not have, so that all of it was written by the build: read there,
 * it costs no detour through the layer. Null when there is no such folder, or a link on the way to it.
 */
async function writtenAnew(site: string, layer: Layer | null): Promise<Lies | null> {
  if (layer === null || site === '.') return null;
  const path = join(layer.written, site);
  const isInTree = await lstat(join(layer.below, site)).catch(absent);
  const real = await realpath(path).catch(absent);
  return isInTree === null && real === path ? { path, root: layer.written, output: null } : null;
}

/** Where a path of the build lies when a step handed it on: in the folder of the written path that holds it. */
function handedAt(site: string, handedOn: readonly HandedOn[]): Lies | null {
  for (const { writes, output } of handedOn) {
    const place = writes.findIndex((write) => matchesPath(write, site));
    const write = writes[place];
    if (write === undefined) continue;
    const root = output.folder(place);
    return { path: join(root, site.slice(write.length)), root, output };
  }
  return null;
}

/** A folder that is not there, or a link that leads nowhere, is no output; what else fails is a failure. */
function absent(error: NodeJS.ErrnoException): null {
  if (error.code === 'ENOENT' || error.code === 'ENOTDIR' || error.code === 'ELOOP') return null;
  throw error;
}
