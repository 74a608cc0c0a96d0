import { readSitePath } from '@vaquero/core';
import { differences } from './git-trees.ts';
import { objectsOf } from './object-reader.ts';

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

const kinds: Readonly<Record<string, WrittenPath['kind']>> = {
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
  if ((await objectsOf(directory).info(from)) === null) return null;
  const changes = await differences(directory, from, to, paths, mostPaths);
  if (changes === null) return null;
  const written: (Omit<WrittenPath, 'bytes'> & { readonly object: string })[] = [];
  const removed: string[] = [];
  for (const { path, before, after } of changes) {
    const kind = after === null ? null : kinds[after.mode];
    const wasKnown = before === null || kinds[before.mode] !== undefined;
    // What changes alone do not make: a submodule, or a name that has no honest path.
    if (kind === undefined || !wasKnown || !('path' in readSitePath(path))) return null;
    if (after === null || kind === null) removed.push(path);
    else written.push({ path, kind, object: after.object });
  }
  const blobs = await blobsOf(
    directory,
    written.map((one) => one.object),
  );
  return (
    blobs && {
      written: written.map(({ path, kind }, place) => ({
        path,
        kind,
        bytes: blobs[place]?.toString('base64') ?? '',
      })),
      removed,
    }
  );
}

/** Contents of some blobs; null when they are more than is worth sending so. */
async function blobsOf(
  directory: string,
  names: readonly string[],
): Promise<readonly Buffer[] | null> {
  const objects = objectsOf(directory);
  const infos = await Promise.all(names.map((name) => objects.info(name)));
  const bytes = infos.reduce((sum, info) => sum + (info?.sizeBytes ?? Number.NaN), 0);
  if (!(bytes <= mostBytes)) return null;
  const blobs = await Promise.all(names.map((name) => objects.contents(name, mostBytes)));
  return blobs.every((blob): blob is Buffer => blob !== null) ? blobs : null;
}
