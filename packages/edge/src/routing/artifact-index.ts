import { statSync } from 'node:fs';
import {
  type Digest,
  type FieldsAt,
  type Manifest,
  makeFields,
  makeImmutable,
  makeResolver,
  manifestFault,
  type Resolver,
  rulesOfManifest,
  type SiteFile,
} from '@vaquero/core';
import { lookup } from 'mime-types';
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
  readonly resolve: Resolver;
  readonly fieldsAt: FieldsAt;
  /** Whether a file never has other bytes under its address. */
  readonly isImmutable: (path: string) => boolean;
  /** Pages that many get first: of the site's own folder, and of a miss. */
  readonly firstPages: readonly string[];
}

/**
 * Reads a manifest from the store and makes its index. Throws when it is damaged, or of a form that this edge does
 * not know. Its bytes are those of its digest, which the service has named: each name and digest in it was
 * checked before it was written.
 */
export function readIndex(store: string, artifact: Digest): ArtifactIndex {
  const manifest = JSON.parse(readVerifiedNow(store, artifact).toString('utf8')) as Manifest;
  const fault = manifestFault(manifest);
  if (fault !== null)
    throw new Error(`the artifact ${artifact} ${fault}; bring this edge up to date`);
  const rules = rulesOfManifest(manifest);
  const files = new Map<string, ServedFile>(
    manifest.site.files.map((file) => [file.path, servedFile(file)]),
  );
  const { entry, missing } = rules;
  return {
    digest: artifact,
    files,
    resolve: makeResolver((path) => files.has(path), rules),
    fieldsAt: makeFields(rules.headers),
    isImmutable: makeImmutable(rules),
    firstPages: missing === null ? [entry] : [entry, missing],
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
  for (const path of index.firstPages) {
    const file = index.files.get(path);
    if (file !== undefined) readVerifiedNow(store, file.digest);
  }
  return null;
}

const textual =
  /^(?:text\/|application\/(?:javascript|json|xml|manifest\+json|wasm|[a-z.]+\+(?:json|xml))|image\/svg\+xml)/;

/** What is answered of files by their ending: a site has thousands of files and a handful of endings. */
const byEnding = new Map<string, Pick<ServedFile, 'mediaType' | 'isText'>>();

function servedFile({ path, digest, sizeBytes }: SiteFile): ServedFile {
  const [dot, slash] = [path.lastIndexOf('.'), path.lastIndexOf('/')];
  // A name that is nothing but an ending has none.
  const ending = dot > slash + 1 ? path.slice(dot) : '';
  const known = byEnding.get(ending) ?? typeOf(ending);
  if (byEnding.size < mostEndings) byEnding.set(ending, known);
  return { digest, sizeBytes, ...known };
}

const mostEndings = 1000;

function typeOf(ending: string): Pick<ServedFile, 'mediaType' | 'isText'> {
  const type = lookup(ending) || 'application/octet-stream';
  const isText = textual.test(type);
  const mediaType = /^text\/|javascript|json|svg\+xml/.test(type) ? `${type}; charset=utf-8` : type;
  return { mediaType, isText };
}
