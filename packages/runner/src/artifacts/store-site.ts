import { relative } from 'node:path';
import type { Found } from './find-site.ts';
import type { FileStore, StoredFile } from './store-files.ts';

/**
 * Stores the files of a site. Those of a sealed output have been read already when it was sealed: they
 * only get a name in the store, and what is there is not written again.
 */
export async function storeSite(
  store: FileStore,
  found: Extract<Found, { ok: true }>,
): Promise<readonly StoredFile[]> {
  if (found.output === null) return store.store(found.files);
  const { root, list } = found.output;
  const known = new Map((await list()).map((file) => [file.path, file]));
  const files = found.files.map(({ path, source, executable }) => {
    const sealed = known.get(relative(root, source));
    if (sealed === undefined) throw new Error(`${path} is not in the list of its output`);
    const { digest, sizeBytes } = sealed;
    return {
      path,
      source,
      digest,
      sizeBytes,
      mode: executable ? (0o755 as const) : (0o644 as const),
    };
  });
  return store.link(files);
}
