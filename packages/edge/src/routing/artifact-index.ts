import { statSync } from 'node:fs';
import { type Digest, readDigest, readSitePath, type ServingRules } from '@vaquero/core';
import { lookup } from 'mime-types';
import { z } from 'zod';
import { blobPath, readVerifiedNow } from '../blobs/read-blob.ts';

/** One published file as the edge answers with it. */
export interface ServedFile {
  readonly digest: Digest;
  readonly sizeBytes: number;
  readonly mediaType: string;
  readonly isText: boolean;
}

/** An artifact made ready for look-ups. */
export interface ArtifactIndex {
  readonly digest: Digest;
  readonly files: ReadonlyMap<string, ServedFile>;
  readonly rules: ServingRules;
}

const digest = z.string().refine((text): text is Digest => readDigest(text) !== undefined);
const manifestSchema = z.object({
  format: z.literal(1),
  site: z.object({
    entry: z.string(),
    missing: z.string().nullable(),
    files: z.array(
      z.object({
        path: z.string().refine((path) => 'path' in readSitePath(path)),
        digest,
        sizeBytes: z.number(),
        mode: z.number(),
      }),
    ),
  }),
}) satisfies z.ZodType<unknown>;

/** Reads a manifest from the store, verified, and makes its index. Throws when it is damaged. */
export function readIndex(store: string, artifact: Digest): ArtifactIndex {
  const manifest = manifestSchema.parse(
    JSON.parse(readVerifiedNow(store, artifact).toString('utf8')),
  );
  const files = new Map(manifest.site.files.map((file) => [file.path, servedFile(file)]));
  return {
    digest: artifact,
    files,
    rules: { entry: manifest.site.entry, missing: manifest.site.missing },
  };
}

/**
 * Says what keeps an artifact from being served: every blob must be in the store in its whole size, and
 * the pages that everybody gets first must have the right bytes. Each other file is verified when it is
 * first read, so a damaged one is refused and never served. `sound` are artifacts that were found so
 * lately: most files of a site are those of the site before.
 */
export function problemWith(
  store: string,
  index: ArtifactIndex,
  sound: readonly ArtifactIndex[] = [],
): string | null {
  for (const [path, file] of index.files) {
    if (sound.some((other) => other.files.get(path)?.digest === file.digest)) continue;
    const size = statSync(blobPath(store, file.digest), { throwIfNoEntry: false })?.size;
    if (size !== file.sizeBytes)
      return `${path} is ${size === undefined ? 'not in its store' : 'cut short in its store'}`;
  }
  for (const path of [index.rules.entry, index.rules.missing]) {
    const file = path === null ? undefined : index.files.get(path);
    if (file !== undefined) readVerifiedNow(store, file.digest);
  }
  return null;
}

const textual =
  /^(?:text\/|application\/(?:javascript|json|xml|manifest\+json|wasm|[a-z.]+\+(?:json|xml))|image\/svg\+xml)/;

function servedFile(file: { path: string; digest: Digest; sizeBytes: number }): ServedFile {
  const type = lookup(file.path) || 'application/octet-stream';
  const isText = textual.test(type);
  const withCharset = /^text\/|javascript|json|svg\+xml/.test(type)
    ? `${type}; charset=utf-8`
    : type;
  return { digest: file.digest, sizeBytes: file.sizeBytes, mediaType: withCharset, isText };
}
