import type { TreeFile } from '@vaquero/core';
import { OutsideFailure } from '../base/refused.ts';
import { type ObjectReader, objectsOf } from './object-reader.ts';
import { beginWalk, mostOfTree, tooLarge } from './tree-size.ts';

/** An entry of one folder of a tree, as Git keeps it. Names that are no UTF-8 come mangled. */
interface Entry {
  readonly mode: string;
  readonly name: string;
  readonly object: string;
}

/** So many entries of trees are remembered: some 40 MB. What an object holds never changes. */
const mostEntries = 200_000;

const folderMode = '040000';

/** A difference between two trees at one path; null where one of them has nothing there. */
export interface PathChange {
  readonly path: string;
  readonly before: TreeFile | null;
  readonly after: TreeFile | null;
}

/**
 * Every file, link and submodule of a commit at or below some paths (all of them for none), in Git's order. Throws
 * CommitUnreadable for a tree that holds more than a tree may.
 */
export async function treeFilesIn(
  directory: string,
  commit: string,
  paths: readonly string[],
): Promise<readonly TreeFile[]> {
  const objects = objectsOf(directory);
  const files: TreeFile[] = [];
  const { pass, rest } = beginWalk();
  const walk = async (tree: string, at: string, depth: number): Promise<void> => {
    await rest();
    for (const { name, mode, object } of await entriesOf(objects, tree)) {
      const path = `${at}${name}`;
      pass(path, depth);
      if (!isSeen(path, paths, mode === folderMode)) continue;
      if (mode === folderMode) await walk(object, `${path}/`, depth + 1);
      else files.push({ path, mode, object });
    }
  };
  await walk(await treeOf(objects, commit), '', 1);
  return files;
}

/**
 * What differs between the trees of two commits at or below some paths, ordered by path. Null when there are
 * over `most`, or a name is no UTF-8: such names are not told apart here.
 */
export async function differences(
  directory: string,
  from: string,
  to: string,
  paths: readonly string[],
  most: number,
): Promise<readonly PathChange[] | null> {
  const objects = objectsOf(directory);
  const found: PathChange[] = [];
  let isTold = true;
  const { pass, rest } = beginWalk();
  const walk = async (
    before: Entry | null,
    after: Entry | null,
    at: string,
    depth: number,
  ): Promise<void> => {
    await rest();
    for (const [name, was, is] of await unlike(objects, before, after)) {
      pass(`${at}${name}`, depth);
      isTold &&= found.length <= most && !name.includes('\uFFFD');
      const path = `${at}${name}`;
      const [oldFolder, newFolder] = [folderOf(was), folderOf(is)];
      const isFolder = oldFolder !== null || newFolder !== null;
      if (!isTold || !isSeen(path, paths, isFolder)) continue;
      const change = { path, before: fileOf(path, was), after: fileOf(path, is) };
      if (change.before !== null || change.after !== null) found.push(change);
      if (isFolder) await walk(oldFolder, newFolder, `${path}/`, depth + 1);
    }
  };
  const top = async (commit: string): Promise<Entry> => ({
    mode: folderMode,
    name: '',
    object: await treeOf(objects, commit),
  });
  await walk(await top(from), await top(to), '', 1);
  if (!isTold || found.length > most) return null;
  return found.sort((a, b) => (a.path < b.path ? -1 : 1));
}

type Unlike = readonly [name: string, was: Entry | null, is: Entry | null];

/** The entries that two folders do not have alike; a folder that is not there has none. */
async function unlike(
  objects: ObjectReader,
  before: Entry | null,
  after: Entry | null,
): Promise<readonly Unlike[]> {
  const read = async (folder: Entry | null): Promise<ReadonlyMap<string, Entry>> => {
    const entries = folder === null ? [] : await entriesOf(objects, folder.object);
    return new Map(entries.map((entry) => [entry.name, entry]));
  };
  const [old, now] = await Promise.all([read(before), read(after)]);
  return [...new Set([...old.keys(), ...now.keys()])]
    .map((name): Unlike => [name, old.get(name) ?? null, now.get(name) ?? null])
    .filter(([, was, is]) => was?.object !== is?.object || was?.mode !== is?.mode);
}

function folderOf(entry: Entry | null): Entry | null {
  return entry?.mode === folderMode ? entry : null;
}

function fileOf(path: string, entry: Entry | null): TreeFile | null {
  return entry === null || entry.mode === folderMode
    ? null
    : { path, mode: entry.mode, object: entry.object };
}

/** Whether a path lies at or below one of those asked for; a folder also when it leads to one. */
function isSeen(path: string, paths: readonly string[], isFolder: boolean): boolean {
  return (
    paths.length === 0 ||
    paths.some(
      (wanted) =>
        path === wanted ||
        path.startsWith(`${wanted}/`) ||
        (isFolder && wanted.startsWith(`${path}/`)),
    )
  );
}

/**
 * Refuses a commit whose whole tree holds more than a tree may, or a name that is none. Each tree object is looked at
 * once however often it is named: one of a hundred names that are all the same below costs a hundred, not its powers.
 * Throws CommitUnreadable.
 */
export async function requireBounded(directory: string, commit: string): Promise<TreeSize> {
  const objects = objectsOf(directory);
  const { pass, rest } = beginWalk();
  const own = new Map<string, TreeSize>();
  const sizeOf = async (tree: string, depth: number): Promise<TreeSize> => {
    const found = bounded.get(tree) ?? own.get(tree);
    if (found !== undefined) return found;
    await rest();
    const size = { entries: 0, depth: 1, pathBytes: 0 };
    for (const { name, mode, object } of await entriesOf(objects, tree)) {
      pass(name, depth);
      const below = mode === folderMode ? await sizeOf(object, depth + 1) : null;
      size.entries += 1 + (below?.entries ?? 0);
      size.depth = Math.max(size.depth, 1 + (below?.depth ?? 0));
      const bytes = Buffer.byteLength(name) + (below === null ? 0 : 1 + below.pathBytes);
      size.pathBytes = Math.max(size.pathBytes, bytes);
    }
    requireWithin(size);
    own.set(tree, size);
    return size;
  };
  const top = await treeOf(objects, commit);
  const whole = await sizeOf(top, 1);
  bounded.set(top, whole);
  // What a folder holds never changes either; those of the newest commits are what the next ones have in common.
  for (const [tree, size] of own) if (size.entries > fewEntries) bounded.set(tree, size);
  for (const [oldest] of bounded) {
    if (bounded.size <= mostBounded) break;
    bounded.delete(oldest);
  }
  return whole;
}

function requireWithin({ entries, depth, pathBytes }: TreeSize): void {
  if (entries > mostOfTree.entries) throw tooLarge('over 200,000 entries');
  if (depth > mostOfTree.depth) throw tooLarge('folders over 100 deep');
  if (pathBytes > mostOfTree.pathBytes) throw tooLarge('a path of over 4,000 bytes');
}

/** How much a tree holds. */
export interface TreeSize {
  readonly entries: number;
  readonly depth: number;
  readonly pathBytes: number;
}

/** Sizes of trees that are within bounds: small ones are read again sooner than they are remembered. */
const bounded = new Map<string, TreeSize>();
const mostBounded = 10_000;
const fewEntries = 32;

async function treeOf(objects: ObjectReader, commit: string): Promise<string> {
  const found = await objects.info(`${commit}^{tree}`);
  if (found === null) throw new OutsideFailure('git', `there is no commit ${commit} here`);
  return found.id;
}

const known = new Map<string, readonly Entry[]>();
let entriesKnown = 0;

/** The entries of a tree object. Throws OutsideFailure when it is not there or not to be read. */
async function entriesOf(objects: ObjectReader, tree: string): Promise<readonly Entry[]> {
  const kept = known.get(tree);
  if (kept !== undefined) {
    known.delete(tree);
    known.set(tree, kept);
    return kept;
  }
  const bytes = await objects.contents(tree, mostOfTree.objectBytes);
  if (bytes === null) {
    const isThere = (await objects.info(tree)) !== null;
    if (isThere) throw tooLarge('a folder of over 64 MiB of names');
    throw new OutsideFailure('git', `the tree ${tree} cannot be read`);
  }
  const entries = parseTree(bytes, tree.length / 2);
  if (!known.has(tree)) entriesKnown += entries.length;
  known.set(tree, entries);
  for (const [oldest, { length }] of known) {
    if (entriesKnown <= mostEntries) break;
    known.delete(oldest);
    entriesKnown -= length;
  }
  return entries;
}

/** A tree object as Git stores it: mode, a space, the name, a zero byte, the object's name in bytes. */
function parseTree(bytes: Buffer, nameBytes: number): readonly Entry[] {
  const entries: Entry[] = [];
  for (let at = 0; at < bytes.length; ) {
    const space = bytes.indexOf(32, at);
    const zero = bytes.indexOf(0, space);
    const next = zero + 1 + nameBytes;
    if (space < 0 || zero < 0 || next > bytes.length)
      throw new OutsideFailure('git', 'a tree object is cut short');
    entries.push({
      mode: canonicalMode(Number.parseInt(bytes.toString('latin1', at, space), 8)),
      name: bytes.toString('utf8', space + 1, zero),
      object: bytes.toString('hex', zero + 1, next),
    });
    at = next;
  }
  return entries;
}

/** Git keeps five kinds of entry; trees that old programs wrote have more, which stand for these. */
function canonicalMode(mode: number): string {
  const kind = mode & 0o170000;
  if (kind === 0o100000) return mode & 0o100 ? '100755' : '100644';
  if (kind === 0o120000) return '120000';
  return kind === 0o040000 ? folderMode : '160000';
}
