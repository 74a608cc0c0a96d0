import { canonical, type Json } from '../audit/log-entry.ts';
import type { Digest } from '../digest.ts';
import {
  type AddressRules,
  plainRules,
  rulesOf,
  type ServingRules,
} from '../serving/serving-rules.ts';
import { compareBytes, type SitePath } from './site-path.ts';

/** One published file. Mode is 0o644 or 0o755. */
export interface SiteFile {
  readonly path: SitePath;
  readonly digest: Digest;
  readonly sizeBytes: number;
  readonly mode: 0o644 | 0o755;
}

/** A manifest of the first form: files, the page of a folder and the page of a miss. */
interface FirstManifest {
  readonly format: 1;
  readonly site: {
    readonly files: readonly SiteFile[];
    readonly entry: string;
    readonly missing: string | null;
  };
}

/** The form that is written now. What is not known yet has its place, so that whoever reads it can refuse it. */
interface SecondManifest {
  readonly format: 2;
  readonly server: null;
  readonly configuration: null;
  readonly site: { readonly files: readonly SiteFile[] } & Omit<ServingRules, 'endings'>;
}

/** The whole of an artifact. Media types and compressed forms are not in it: they are the edge's. */
export type Manifest = FirstManifest | SecondManifest;

/** Forms of manifests that this version reads. */
export const manifestFormats: readonly number[] = [1, 2];

/** Makes a manifest, its files sorted by the bytes of their paths. */
export function manifestOf(
  files: readonly SiteFile[],
  said: Partial<AddressRules> & Pick<ServingRules, 'entry' | 'missing'>,
): Manifest {
  const { entry, missing, base, moved, instead, headers, immutable } = rulesOf(said);
  const sorted = files.toSorted((a, b) => compareBytes(a.path, b.path));
  return {
    format: 2,
    server: null,
    configuration: null,
    site: { files: sorted, entry, missing, base, moved, instead, headers, immutable },
  };
}

/** How an artifact is answered. One of the first form is answered as it was when it was made. */
export function rulesOfManifest(manifest: Manifest): ServingRules {
  if (manifest.format === 2) return { ...manifest.site, endings: 'left-out' };
  const { entry, missing } = manifest.site;
  return { ...plainRules, entry, missing, endings: 'kept' };
}

/** What in a manifest this version does not know, or null. Takes a document that was read as JSON. */
export function manifestFault(manifest: {
  readonly format: number;
  readonly server?: unknown;
  readonly configuration?: unknown;
}): string | null {
  const { format, server, configuration } = manifest;
  if (!manifestFormats.includes(format))
    return `has a manifest of form ${format}, and ${manifestFormats.join(' and ')} are read here`;
  if (server != null) return 'has a server, which is not known here';
  return configuration == null ? null : 'has a configuration, which is not known here';
}

/**
 * The exact bytes of a manifest, in the canonical form of log entries: sorted keys, no white space. The
 * SHA-256 of them is the artifact's digest. The keys of files stand here in their order, because sorting those of
 * every file takes longer than all else that is done with a manifest.
 */
export function encodeManifest(manifest: Manifest): string {
  const files = manifest.site.files.map(({ digest, mode, path, sizeBytes }) => ({
    digest,
    mode,
    path,
    sizeBytes,
  }));
  const { format } = manifest;
  if (format === 1) {
    const { entry, missing } = manifest.site;
    return JSON.stringify({ format, site: { entry, files, missing } });
  }
  const { base, entry, headers, immutable, instead, missing, moved } = manifest.site;
  const written = (part: unknown): string => canonical(part as Json);
  return `{"configuration":null,"format":2,"server":null,"site":{"base":${written(base)},"entry":${written(entry)},"files":${JSON.stringify(files)},"headers":${written(headers)},"immutable":${written(immutable)},"instead":${written(instead)},"missing":${written(missing)},"moved":${written(moved)}}}`;
}

/** Counts that people compare: files and bytes. */
export function sizeOf(manifest: Manifest): { readonly files: number; readonly bytes: number } {
  const { files } = manifest.site;
  return { files: files.length, bytes: files.reduce((sum, file) => sum + file.sizeBytes, 0) };
}
