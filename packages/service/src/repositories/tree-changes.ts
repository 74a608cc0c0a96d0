import { once } from 'node:events';
import { readSitePath } from '@vaquero/core';
import { spawnGit, tryGit } from './git.ts';

/** One path of a tree that another tree lacks or has otherwise. */
export interface WrittenPath {
  readonly path: string;
  readonly kind: 'file' | 'executable' | 'link';
  /** In base64; of a link, where it leads. */
  readonly bytes: string;
}

/** What must be done to the tree of one commit to get another's. */
export interface TreeChanges {
  readonly written: readonly WrittenPath[];
  readonly removed: readonly string[];
}

/** Beyond these the whole tree is the quicker answer. */
const mostPaths = 500;
const mostBytes = 8 << 20;

const kinds: Readonly<Record<string, WrittenPath['kind'] | 'none'>> = {
  '000000': 'none',
  '100644': 'file',
  '100755': 'executable',
  '120000': 'link',
};

/**
 * The changes between the trees of two commits at or below some paths (all of them for none). Null when the
 * whole tree must be fetched: the earlier commit is not known here, much has changed, or a submodule has.
 */
export async function treeChanges(
  directory: string,
  from: string,
  to: string,
  paths: readonly string[],
): Promise<TreeChanges | null> {
  const end = await tryGit(
    [
      '--literal-pathspecs',
      'diff-tree',
      '-r',
      '-z',
      '--raw',
      '--no-renames',
      '--no-abbrev',
      from,
      to,
      '--',
      ...paths,
    ],
    { cwd: directory },
  );
  if (!end.ok) return null;
  const rows = readRows(end.stdout);
  if (rows === null || rows.length > mostPaths) return null;
  const wanted = rows.filter((row) => row.kind !== 'none');
  const blobs = await blobsOf(
    directory,
    wanted.map((row) => row.object),
  );
  if (blobs === null) return null;
  return {
    written: wanted.flatMap(({ path, kind }, place) =>
      kind === 'none' ? [] : [{ path, kind, bytes: blobs[place]?.toString('base64') ?? '' }],
    ),
    removed: rows.filter((row) => row.kind === 'none').map((row) => row.path),
  };
}

interface Row {
  readonly path: string;
  readonly object: string;
  readonly kind: WrittenPath['kind'] | 'none';
}

/** Rows of `git diff-tree --raw -z`; null when one is of a kind that changes alone do not make. */
function readRows(text: string): readonly Row[] | null {
  const fields = text.split('\0');
  const rows: Row[] = [];
  for (let at = 0; at + 1 < fields.length; at += 2) {
    const [before = '', after = '', , object = ''] = (fields[at] ?? '')
      .replace(/^:/, '')
      .split(' ');
    const path = fields[at + 1] ?? '';
    const kind = kinds[after];
    if (kind === undefined || kinds[before] === undefined || !('path' in readSitePath(path)))
      return null;
    rows.push({ path, object, kind });
  }
  return rows;
}

/** Contents of some blobs; null when they are more than is worth sending so. Format: git-cat-file(1), batch output. */
async function blobsOf(
  directory: string,
  objects: readonly string[],
): Promise<readonly Buffer[] | null> {
  if (objects.length === 0) return [];
  const child = spawnGit(['cat-file', '--batch'], directory);
  const chunks: Buffer[] = [];
  let size = 0;
  child.stderr?.resume();
  child.stdin?.on('error', () => undefined); // It was ended below, because it says too much.
  child.stdin?.end(objects.map((object) => `${object}\n`).join(''));
  child.stdout?.on('data', (chunk: Buffer) => {
    size += chunk.length;
    if (size > mostBytes) child.kill();
    else chunks.push(chunk);
  });
  const [code] = (await once(child, 'close')) as [number | null];
  if (code !== 0 || size > mostBytes) return null;
  const all = Buffer.concat(chunks);
  const blobs: Buffer[] = [];
  for (let at = 0; at < all.length; ) {
    const line = all.indexOf(10, at);
    const length = Number(/^[0-9a-f]+ blob (\d+)$/.exec(all.toString('latin1', at, line))?.[1]);
    if (!Number.isSafeInteger(length)) return null;
    blobs.push(all.subarray(line + 1, line + 1 + length));
    at = line + 1 + length + 1;
  }
  return blobs;
}
