import type { SiteFile } from './manifest.ts';

/** What became of a file between two artifacts. */
export interface FileChange {
  readonly path: string;
  readonly how: 'added' | 'changed' | 'removed' | 'renamed';
  /** The name that it had before. */
  readonly from: string | null;
  /** Bytes; null where it is not there. */
  readonly before: number | null;
  readonly after: number | null;
}

/** How much there is of one type of file, by its ending. Bytes. */
export interface TypeSizes {
  readonly type: string;
  readonly before: number;
  readonly after: number;
}

/** What differs between the files of two artifacts. */
export interface FilesCompared {
  /** By path. A file whose very bytes stand under another name is renamed. */
  readonly changes: readonly FileChange[];
  readonly same: number;
  readonly before: { readonly files: number; readonly bytes: number };
  readonly after: { readonly files: number; readonly bytes: number };
  /** Types whose size differs, what grew or shrank most first. */
  readonly types: readonly TypeSizes[];
}

/** Compares the files of two artifacts, each sorted by path or not. */
export function compareFiles(
  before: readonly SiteFile[],
  after: readonly SiteFile[],
): FilesCompared {
  const old = new Map<string, SiteFile>(before.map((file) => [file.path, file]));
  const now = new Map<string, SiteFile>(after.map((file) => [file.path, file]));
  const gone = before.filter(({ path }) => !now.has(path));
  // Several files may have the same bytes: each name that is gone explains one new name at most.
  const unnamed = new Map<string, SiteFile[]>();
  for (const file of gone) unnamed.set(file.digest, [...(unnamed.get(file.digest) ?? []), file]);
  const renamed = new Set<string>();
  const changes: FileChange[] = [];
  for (const file of after) {
    const was = old.get(file.path);
    if (was?.digest === file.digest && was.mode === file.mode) continue;
    const { path, sizeBytes } = file;
    if (was !== undefined) {
      changes.push({ path, how: 'changed', from: null, before: was.sizeBytes, after: sizeBytes });
      continue;
    }
    const from = unnamed.get(file.digest)?.shift();
    if (from !== undefined) renamed.add(from.path);
    changes.push({
      path,
      how: from === undefined ? 'added' : 'renamed',
      from: from?.path ?? null,
      before: from?.sizeBytes ?? null,
      after: sizeBytes,
    });
  }
  for (const { path, sizeBytes } of gone)
    if (!renamed.has(path))
      changes.push({ path, how: 'removed', from: null, before: sizeBytes, after: null });
  return {
    changes: changes.toSorted((a, b) => (a.path < b.path ? -1 : 1)),
    same: after.length - changes.filter(({ how }) => how !== 'removed').length,
    before: totalOf(before),
    after: totalOf(after),
    types: typesOf(before, after),
  };
}

function totalOf(files: readonly SiteFile[]): FilesCompared['before'] {
  return { files: files.length, bytes: files.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0) };
}

function typesOf(before: readonly SiteFile[], after: readonly SiteFile[]): readonly TypeSizes[] {
  const sums = new Map<string, { before: number; after: number }>();
  for (const [side, files] of [['before', before] as const, ['after', after] as const])
    for (const { path, sizeBytes } of files) {
      const type = /\.([A-Za-z0-9]{1,12})$/.exec(path)?.[1]?.toLowerCase() ?? 'other';
      const sum = sums.get(type) ?? { before: 0, after: 0 };
      sum[side] += sizeBytes;
      sums.set(type, sum);
    }
  return [...sums]
    .map(([type, sizes]) => ({ type, ...sizes }))
    .filter((one) => one.before !== one.after)
    .toSorted((a, b) => Math.abs(b.after - b.before) - Math.abs(a.after - a.before));
}

/** Whether a file is a page that people read. */
export function isPage(path: string): boolean {
  return /\.(?:html?|xhtml)$/i.test(path);
}
