import { closeSync } from 'node:fs';
import { join } from 'node:path';
import {
  type BuildFailure,
  cleanPath,
  matchesPath,
  type Serve,
  type SiteFolder,
  siteFolders,
} from '@vaquero/core';
import type { HandedOn } from '../builds/step-sight.ts';
import { type Beneath, lookBeneath, openFolder } from '../descriptors/beneath.ts';
import { listBeneath } from '../descriptors/list-beneath.ts';
import { type Followed, followBeneath } from '../descriptors/reach.ts';
import type { Output } from '../outputs/output-store.ts';
import type { SealedFile } from '../outputs/seal-folder.ts';
import type { Layer } from '../sources/layered.ts';
import type { Workplace } from '../walls/slot.ts';
import { type PagesBefore, unwrittenPages } from './committed-pages.ts';
import { type OutputFile, type Walked, walkList, walkOutput } from './walk-output.ts';

/** The output of a build as it will be published, or why there is none. */
export type Found =
  | {
      readonly ok: true;
      readonly site: string;
      /** The host's folder below which the files lie. */
      readonly root: string;
      readonly files: readonly OutputFile[];
    }
  | { readonly ok: false; readonly failure: BuildFailure };

/** What is known of a folder that nobody has named for good. */
export interface OpenFolder {
  /** The recipe was concluded from the commit: the folder it names is what its kind of project writes as a rule. */
  readonly isGuess: boolean;
  /** Whether any command ran, so that what is published is what it wrote. */
  readonly ran: boolean;
  /** Entry pages that came with the commit. */
  readonly before: PagesBefore;
}

/**
 * Finds the output in a build's tree: the folder the recipe names, or, while it names none, the one that
 * looks like a site. `handedOn` is what steps wrote outside the tree, where a named folder is looked for first.
 */
export async function findSite(
  workplace: Pick<Workplace, 'tree' | 'layer' | 'committed'>,
  serve: Serve,
  open: OpenFolder,
  handedOn: readonly HandedOn[] = [],
): Promise<Found> {
  const { tree } = workplace;
  const folders = (): readonly SiteFolder[] =>
    siteFolders(listBeneath(tree, 200_000), serve.entry, unwrittenPages(tree, open.before));
  const found = serve.site === null ? null : await findNamed(workplace, serve, folders, handedOn);
  if (found !== null && (!open.isGuess || isBuilt(found, serve, open, tree))) return found;
  // What a build wrote comes before what was committed, and that is published only when no command ran.
  const all = folders();
  const first = all.find((one) => one.committed !== true || !open.ran);
  if (first !== undefined && first.folder !== serve.site)
    return findNamed(workplace, { ...serve, site: first.folder }, folders, handedOn);
  if (found !== null && (!found.ok || first !== undefined)) return found;
  return { ok: false, failure: { reason: 'output-absent', site: null, folders: all } };
}

/** Finds a further folder of the site, which needs no entry page of its own. */
export async function findFurther(
  workplace: Pick<Workplace, 'tree' | 'layer' | 'committed'>,
  site: string,
  handedOn: readonly HandedOn[],
): Promise<Found> {
  const folders = (): readonly SiteFolder[] =>
    siteFolders(listBeneath(workplace.tree, 200_000), 'index.html', new Set());
  return findNamed(workplace, { site, entry: null, missing: null }, folders, handedOn);
}

/** Whether a folder that was guessed is there, and is not what came with the commit while commands ran. */
function isBuilt(
  found: Found,
  { entry }: Serve,
  { ran, before }: OpenFolder,
  tree: string,
): boolean {
  if (!found.ok)
    return !['output-absent', 'output-empty', 'entry-absent'].includes(found.failure.reason);
  const page = found.site === '.' ? entry : `${found.site}/${entry}`;
  return !ran || !unwrittenPages(tree, before).has(page);
}

/** A folder, and the pages that must be in it. */
interface Wanted {
  readonly site: string | null;
  readonly entry: string | null;
  readonly missing: string | null;
}

/** Finds the output in a folder that is named. */
async function findNamed(
  { tree, layer, committed }: Pick<Workplace, 'tree' | 'layer' | 'committed'>,
  { site: named, entry, missing }: Wanted,
  folders: () => readonly SiteFolder[],
  handedOn: readonly HandedOn[],
): Promise<Found> {
  const site = named ?? '.';
  const wanted = cleanPath(site);
  const lies = handedAt(wanted, handedOn) ??
    writtenAnew(wanted, layer) ?? { root: tree, path: wanted, sealed: null };
  const end = followedBelow(lies);
  if (end.kind === 'leaves')
    return {
      ok: false,
      failure: { reason: 'link-leaves', path: site, target: 'outside the build' },
    };
  if (end.kind !== 'folder')
    return { ok: false, failure: { reason: 'output-absent', site, folders: folders() } };
  // The list of a sealed output says what a walk would find, unless links are to be followed.
  const listed =
    lies.sealed === null
      ? null
      : await filesBelow(lies.sealed.output, join(lies.sealed.place, end.path));
  const walked =
    listed !== null && lies.sealed?.output.plain === true
      ? walkList(end.path, listed)
      : withSealed(walkOutput(lies.root, end.path), listed);
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
  if (entry !== null && !has(entry))
    return {
      ok: false,
      failure: { reason: 'entry-absent', site, entry, folders: folders() },
    };
  if (missing !== null && !has(missing))
    return { ok: false, failure: { reason: 'missing-page-absent', site, missing } };
  const { root } = lies;
  return { ok: true, site, root, files: root === tree ? withStaying(files, committed) : files };
}

/** Marks the files of an output that came with the commit, in a tree that is kept. */
function withStaying(
  files: readonly OutputFile[],
  committed: ReadonlySet<string> | null,
): readonly OutputFile[] {
  if (committed === null) return files;
  return files.map((file) => (committed.has(file.source) ? { ...file, stays: true } : file));
}

/** Files of a sealed output that lie below one of its folders. */
async function filesBelow(output: Output, folder: string): Promise<readonly SealedFile[]> {
  return (await output.list())
    .filter((file) => file.path.startsWith(`${folder}/`))
    .map((file) => ({ ...file, path: file.path.slice(folder.length + 1) }));
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

/** Where a folder of the output lies on the host's disk. */
interface Lies {
  /** A folder of our own, which no link may leave. */
  readonly root: string;
  readonly path: string;
  /** The sealed output that it is a part of, and the name of the root in it. */
  readonly sealed: { readonly output: Output; readonly place: string } | null;
}

function followedBelow({ root, path }: Lies): Followed {
  const top = openFolder(root);
  try {
    return followBeneath(top, path);
  } finally {
    closeSync(top);
  }
}

/**
 * Where a folder lies that the commit does not have, so that all of it was written by the build: read there,
 * it costs no detour through the layer. Null when there is no such folder, or a link on the way to it.
 */
function writtenAnew(site: string, layer: Layer | null): Lies | null {
  const written = layer?.written ?? null;
  if (layer === null || written === null || site === '.') return null;
  const isAnew = kindBelow(layer.below, site) === 'absent' && kindBelow(written, site) === 'folder';
  return isAnew ? { root: written, path: site, sealed: null } : null;
}

function kindBelow(root: string, path: string): Beneath['kind'] {
  const top = openFolder(root);
  try {
    return lookBeneath(top, path).kind;
  } finally {
    closeSync(top);
  }
}

/** Where a path of the build lies when a step handed it on: in the folder of the written path that holds it. */
function handedAt(site: string, handedOn: readonly HandedOn[]): Lies | null {
  for (const { writes, output } of handedOn) {
    const place = writes.findIndex((write) => matchesPath(write, site));
    const write = writes[place];
    if (write === undefined) continue;
    const path = cleanPath(site.slice(write.length));
    return { root: output.folder(place), path, sealed: { output, place: String(place) } };
  }
  return null;
}
