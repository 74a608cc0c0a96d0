import { join } from 'node:path';
import type { Layer } from '../sources/layered.ts';
import type { Found } from './find-site.ts';
import type { Told } from './last-proposed.ts';
import type { KnownFile } from './put-blob.ts';
import type { FileStore, StoredFile } from './store-files.ts';
import type { OutputFile } from './walk-output.ts';

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
  const known: KnownFile[] = [];
  const others: OutputFile[] = [];
  for (const file of found.files) {
    const { path, source, sealed } = file;
    if (sealed === undefined) others.push(file);
    else {
      const { digest, sizeBytes, executable } = sealed;
      known.push({
        path,
        source: join(found.root, source),
        digest,
        sizeBytes,
        mode: executable ? 0o755 : 0o644,
      });
    }
  }
  const isTold = ({ path, digest }: StoredFile): boolean =>
    told?.files.get(path)?.digest === digest;
  const kept = known.filter(isTold).map(({ source: _, ...file }) => file);
  const fresh = known.filter((file) => !isTold(file));
  const linked = fresh.length === 0 ? [] : await store.link(fresh);
  const stored =
    others.length === 0 ? [] : await store.store(found.root, others, layer, told?.files);
  return [...kept, ...linked, ...stored];
}
