import type { Digest } from '@vaquero/core';
import type { StoredFile } from './store-files.ts';

/** What the service was last told of a project's output: only what differs from it need be said again. */
export interface Told {
  readonly artifact: Digest;
  readonly files: ReadonlyMap<string, StoredFile>;
}

/** How the files of an output differ from those of an artifact that the service has. */
export interface Difference {
  readonly files: readonly StoredFile[];
  readonly like: { readonly artifact: Digest; readonly without: readonly string[] } | null;
}

/** Says an output by its difference from an earlier one, where that is the shorter way. */
export function differenceFrom(told: Told | null, files: readonly StoredFile[]): Difference {
  if (told === null) return { files, like: null };
  const changed = files.filter((file) => {
    const before = told.files.get(file.path);
    return before?.digest !== file.digest || before.mode !== file.mode;
  });
  if (changed.length > files.length / 2) return { files, like: null };
  const here = new Set(files.map((file) => file.path));
  const without = [...told.files.keys()].filter((path) => !here.has(path));
  return { files: changed, like: { artifact: told.artifact, without } };
}
