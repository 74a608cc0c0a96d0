import type { Found } from './find-site.ts';
import type { Told } from './last-proposed.ts';
import type { FileStore, StoredFile } from './store-files.ts';
import type { Layer } from './store-worker.ts';

/**
 * Stores the files of a site. Those of a sealed output have been read already when it was sealed: they
 * only get a name in the store, and what is there is not written again. What the service was told of
 * last time is there.
 */
export async function storeSite(
  store: FileStore,
  found: Extract<Found, { ok: true }>,
  layer: Layer | null,
  told: Told | null,
): Promise<readonly StoredFile[]> {
  const { files, sealed } = found;
  if (sealed === null) return store.store(files, layer, told?.files);
  // A link of the output can lead to a file that its list names elsewhere: that one is read.
  const known = files.filter((file) => sealed.has(file.source));
  const others = files.filter((file) => !sealed.has(file.source));
  const named = known.flatMap(({ path, source }) => {
    const file = sealed.get(source);
    if (file === undefined) return [];
    const { digest, sizeBytes, executable } = file;
    return [
      { path, source, digest, sizeBytes, mode: executable ? (0o755 as const) : (0o644 as const) },
    ];
  });
  const isTold = ({ path, digest }: StoredFile): boolean =>
    told?.files.get(path)?.digest === digest;
  const kept = named.filter(isTold).map(({ source: _, ...file }) => file);
  const linked = await store.link(named.filter((file) => !isTold(file)));
  return [...kept, ...linked, ...(await store.store(others, layer))];
}
