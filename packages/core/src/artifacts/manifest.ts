import type { Digest } from '../digest.ts';
import { compareBytes, type SitePath } from './site-path.ts';

/** One published file. Mode is 0o644 or 0o755. */
export interface SiteFile {
  readonly path: SitePath;
  readonly digest: Digest;
  readonly sizeBytes: number;
  readonly mode: 0o644 | 0o755;
}

/** What an edge needs to know to answer for a path: the page of a folder and the page for a miss. */
export interface ServingRules {
  readonly entry: string;
  readonly missing: string | null;
}

/** The whole of an artifact. Media types and compressed forms are not in it: they are the edge's. */
export interface Manifest {
  readonly format: 1;
  readonly site: { readonly files: readonly SiteFile[] } & ServingRules;
}

/** Makes a manifest, its files sorted by the bytes of their paths. */
export function manifestOf(files: readonly SiteFile[], rules: ServingRules): Manifest {
  const sorted = files.toSorted((a, b) => compareBytes(a.path, b.path));
  return { format: 1, site: { files: sorted, entry: rules.entry, missing: rules.missing } };
}

/**
 * The exact bytes of a manifest, in the canonical form of log entries: sorted keys, no white space. The
 * SHA-256 of them is the artifact's digest. The keys stand here in their order, because sorting those of
 * every file takes longer than all else that is done with a manifest.
 */
export function encodeManifest({ format, site }: Manifest): string {
  const files = site.files.map(({ digest, mode, path, sizeBytes }) => ({
    digest,
    mode,
    path,
    sizeBytes,
  }));
  return JSON.stringify({ format, site: { entry: site.entry, files, missing: site.missing } });
}

/** Counts that people compare: files and bytes. */
export function sizeOf(manifest: Manifest): { readonly files: number; readonly bytes: number } {
  const { files } = manifest.site;
  return { files: files.length, bytes: files.reduce((sum, file) => sum + file.sizeBytes, 0) };
}
