import { type FileHandle, open, readFile } from 'node:fs/promises';
import type { IncomingMessage } from 'node:http';
import Negotiator from 'negotiator';
import { type Compressed, encodings } from '../blobs/compressed.ts';
import type { Memory } from '../blobs/memory.ts';
import type { VerifiedFiles } from '../blobs/open-verified.ts';
import { readVerified } from '../blobs/read-blob.ts';
import type { ServedFile } from '../routing/artifact-index.ts';

/** Where the bytes of files come from. */
export interface Bytes {
  readonly store: string;
  readonly memory: Memory;
  readonly compressed: Compressed;
  readonly verified: VerifiedFiles;
}

/** One form of a file as it is sent: as it is, or compressed. */
export interface Representation {
  readonly sizeBytes: number;
  readonly encoding: string | null;
  /** Strong: other bytes never have the same. */
  readonly etag: string;
  /** By what its bytes are held in memory. */
  readonly key: string;
  /** Whether whoever accepts the same gets this form from now on: a compressed one may still come. */
  readonly isSettled: boolean;
  /** All of it, where it is small enough to be held for whoever reads it slowly; null: it is sent in pieces. */
  readonly whole: (() => Buffer | Promise<Buffer>) | null;
  /** The open file, for pieces; the caller closes it. Throws BlobDamaged. */
  readonly open: () => Promise<FileHandle>;
}

/** Files over this are not held in memory for whoever reads them slowly. */
const largeBytes = 1 << 20;

/** Whether all of a file is asked for, whatever is known of it. */
export function isPlain({ headers }: IncomingMessage): boolean {
  return (
    headers.range === undefined &&
    headers['if-none-match'] === undefined &&
    headers['if-modified-since'] === undefined &&
    headers['if-match'] === undefined
  );
}

/** Chooses the form in which a file is sent. Pieces are cut of the file as it is: forms made elsewhere may differ. */
export function representationOf(
  bytes: Bytes,
  req: IncomingMessage,
  file: ServedFile,
): Representation {
  const { digest, sizeBytes } = file;
  const tag = digest.slice(0, 32);
  const encoding =
    file.isText && req.headers.range === undefined
      ? bestEncoding(bytes, file, req.headers['accept-encoding'])
      : null;
  const form = encoding === null ? undefined : bytes.compressed.get(digest, encoding);
  if (form === undefined || encoding === null)
    return {
      sizeBytes,
      encoding: null,
      etag: `"${tag}"`,
      key: digest,
      isSettled: !file.isText || req.headers['accept-encoding'] === undefined,
      whole:
        sizeBytes > largeBytes
          ? null
          : () => held(bytes, digest, () => readVerified(bytes.store, digest)),
      open: () => bytes.verified.open(digest, sizeBytes),
    };
  return {
    sizeBytes: form.sizeBytes,
    encoding,
    etag: `"${tag}-${encoding}"`,
    key: `${digest}.${encoding}`,
    isSettled: encoding === encodings[0],
    whole:
      form.sizeBytes > largeBytes
        ? null
        : () => held(bytes, `${digest}.${encoding}`, () => readFile(form.path)),
    open: () => open(form.path, 'r'),
  };
}

function held(
  { memory }: Bytes,
  key: string,
  read: () => Promise<Buffer>,
): Buffer | Promise<Buffer> {
  const kept = memory.get(key);
  if (kept !== undefined) return kept;
  return read().then((fresh) => {
    memory.keep(key, fresh);
    return fresh;
  });
}

/** What clients accept, by the words in which they say it: there are few of them. */
const accepted = new Map<string, readonly string[]>();
const mostAccepted = 500;

/** The best encoding that the client takes and that has been made. Source: RFC 9110 section 12.5.3. */
function bestEncoding(
  { compressed }: Bytes,
  { digest, sizeBytes }: ServedFile,
  said: string | undefined,
): string | null {
  if (said === undefined) return null;
  compressed.want(digest, sizeBytes);
  let taken = accepted.get(said);
  if (taken === undefined) {
    if (accepted.size >= mostAccepted) accepted.clear();
    // Its types are those of an older version, which knew no preference among what is liked alike.
    const asking = new Negotiator({ headers: { 'accept-encoding': said } }) as {
      readonly encodings: (there: string[], options: { preferred: string[] }) => string[];
    };
    taken = asking.encodings([...encodings, 'identity'], { preferred: [...encodings] });
    accepted.set(said, taken);
  }
  for (const encoding of taken) {
    if (encoding === 'identity') return null;
    if (compressed.get(digest, encoding) !== undefined) return encoding;
  }
  return null;
}
