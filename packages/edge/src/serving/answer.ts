import type { IncomingMessage, ServerResponse } from 'node:http';
import { pipeline } from 'node:stream/promises';
import { type Answer, type Digest, resolvePath } from '@vaquero/core';
import type { Logger } from 'pino';
import { type Compressed, type Encoding, encodings } from '../blobs/compressed.ts';
import type { Memory } from '../blobs/memory.ts';
import type { VerifiedFiles } from '../blobs/open-verified.ts';
import { BlobDamaged, readVerified } from '../blobs/read-blob.ts';
import type { ArtifactIndex, ServedFile } from '../routing/artifact-index.ts';
import type { LiveTable, Place } from '../routing/live-table.ts';
import { noSuchHost, notFound, servesNothing, trouble } from './own-pages.ts';

/** What answering takes. */
export interface Serving {
  readonly table: LiveTable;
  readonly store: string;
  readonly memory: Memory;
  readonly compressed: Compressed;
  readonly verified: VerifiedFiles;
  readonly clock: () => number;
  /** Brings an artifact that is not here yet; null where the store is shared. */
  readonly bring: ((artifact: Digest) => Promise<void>) | null;
  /** Fetches anew what of an artifact is damaged here; null where the store is shared. */
  readonly mend: ((artifact: Digest) => Promise<void>) | null;
  readonly log: Logger;
}

/** Answers one request of the public. Never rejects: a fault becomes an honest 500. */
export async function answer(
  serving: Serving,
  req: IncomingMessage,
  res: ServerResponse,
): Promise<void> {
  try {
    await answerOrThrow(serving, req, res).catch(async (err: unknown) => {
      const artifact = serving.table.place(hostOf(req), shownBy(req))?.artifact;
      if (!(err instanceof BlobDamaged) || res.headersSent || artifact == null) throw err;
      if (serving.mend === null) throw err;
      await serving.mend(artifact.digest);
      await answerOrThrow(serving, req, res);
    });
  } catch (err) {
    serving.log.error({ err, host: req.headers.host, url: req.url }, 'request not answered');
    if (res.headersSent) res.destroy();
    else
      send(
        req,
        res,
        500,
        [],
        'text/html; charset=utf-8',
        Buffer.from(trouble(err instanceof BlobDamaged)),
      );
  }
}

function hostOf(req: IncomingMessage): string {
  return (req.headers.host ?? '').toLowerCase();
}

/** The key of the service itself, if the request bears one. */
function shownBy(req: IncomingMessage): string | undefined {
  const shown = req.headers['vaquero-look'];
  return typeof shown === 'string' ? shown : undefined;
}

async function answerOrThrow(
  serving: Serving,
  req: IncomingMessage,
  res: ServerResponse,
): Promise<void> {
  const [host, shown] = [hostOf(req), shownBy(req)];
  // Artifacts of all builds have addresses; an edge elsewhere fetches one when somebody asks for it.
  const asked = serving.bring === null ? undefined : serving.table.artifactAt(host, shown);
  if (asked !== undefined) await serving.bring?.(asked);
  const place = serving.table.place(host, shown);
  if (place === undefined)
    return send(req, res, 404, [], 'text/html; charset=utf-8', Buffer.from(noSuchHost(host)));
  const names = headersOf(place);
  if (req.method !== 'GET' && req.method !== 'HEAD') {
    return send(
      req,
      res,
      405,
      [...names, 'Allow', 'GET, HEAD'],
      'text/plain; charset=utf-8',
      Buffer.from('Only GET and HEAD are answered here.\n'),
    );
  }
  if (place.artifact === null) {
    const page = place.kind === 'environment' ? servesNothing(place.entry) : '';
    return send(
      req,
      res,
      503,
      [...names, 'Retry-After', '10'],
      'text/html; charset=utf-8',
      Buffer.from(page),
    );
  }
  const [target = '/', query] = (req.url ?? '/').split('?', 2);
  const found = resolvePath(
    (path) => place.artifact?.files.has(path) ?? false,
    place.artifact.rules,
    target,
  );
  if (found.kind === 'moved') {
    return send(
      req,
      res,
      308,
      [...names, 'Location', query === undefined ? found.to : `${found.to}?${query}`],
      'text/plain; charset=utf-8',
      Buffer.from(`Moved to ${found.to}\n`),
    );
  }
  const earlier = earlierAsset(serving, place, found, target);
  if (earlier !== undefined)
    return sendFile(serving, req, res, earlier.file, 200, [
      ...names,
      'Vaquero-Served-From',
      earlier.artifact.digest,
    ]);
  if (found.kind === 'file') {
    const file = place.artifact.files.get(found.path);
    if (file !== undefined) return sendFile(serving, req, res, file, found.status, names);
  }
  const status = found.kind === 'malformed' ? 400 : 404;
  return send(req, res, status, names, 'text/html; charset=utf-8', Buffer.from(notFound(status)));
}

/** For an hour after a move, an asset that only the artifact served before has: open pages keep theirs. Pages never fall back. */
function earlierAsset(
  serving: Serving,
  place: Place,
  found: Answer,
  target: string,
): { file: ServedFile; artifact: ArtifactIndex } | undefined {
  const missed = found.kind === 'absent' || (found.kind === 'file' && found.status === 404);
  if (
    !missed ||
    place.kind !== 'environment' ||
    place.previous === null ||
    serving.clock() > place.previous.until
  )
    return undefined;
  const { index } = place.previous;
  const there = resolvePath(
    (path) => index.files.has(path),
    { entry: index.rules.entry, missing: null },
    target,
  );
  const file = there.kind === 'file' ? index.files.get(there.path) : undefined;
  return file === undefined || file.mediaType.startsWith('text/html')
    ? undefined
    : { file, artifact: index };
}

/** Every answer names what it came from. */
function headersOf(place: Place): readonly string[] {
  if (place.kind === 'artifact') {
    return [
      'Vaquero-Artifact',
      place.artifact.digest,
      ...(place.made === null
        ? []
        : [
            'Vaquero-Project',
            place.made.project,
            'Vaquero-Build',
            String(place.made.build),
            'Vaquero-Commit',
            place.made.commit,
          ]),
      'X-Robots-Tag',
      'noindex',
    ];
  }
  const { entry } = place;
  return [
    'Vaquero-Project',
    entry.project,
    'Vaquero-Environment',
    entry.environment,
    ...(place.artifact === null ? [] : ['Vaquero-Artifact', place.artifact.digest]),
    ...(entry.deploy === null ? [] : ['Vaquero-Deploy', String(entry.deploy)]),
    ...(entry.commit === null ? [] : ['Vaquero-Commit', entry.commit]),
    ...(entry.environment === 'production' ? [] : ['X-Robots-Tag', 'noindex']),
  ];
}

async function sendFile(
  serving: Serving,
  req: IncomingMessage,
  res: ServerResponse,
  file: ServedFile,
  status: number,
  names: readonly string[],
): Promise<void> {
  const encoding = file.isText ? chosen(serving, file, req.headers['accept-encoding']) : undefined;
  const etag = `"${file.digest.slice(0, 32)}${encoding === undefined ? '' : `-${encoding}`}"`;
  const headers = [
    ...names,
    'ETag',
    etag,
    ...(file.isText ? ['Vary', 'Accept-Encoding'] : []),
    ...(encoding === undefined ? [] : ['Content-Encoding', encoding]),
  ];
  if (status === 200 && matches(req.headers['if-none-match'], etag)) {
    res.writeHead(304, [...headers, ...always]);
    res.end();
    return;
  }
  if (encoding === undefined && file.sizeBytes > largeBytes)
    return sendInPieces(serving, req, res, file, status, headers);
  const bytes =
    encoding === undefined
      ? await bytesOf(serving, file)
      : serving.compressed.get(file.digest, encoding);
  send(req, res, status, headers, file.mediaType, bytes ?? (await bytesOf(serving, file)));
}

/** Files over this are not held in memory for whoever reads them slowly. */
const largeBytes = 1 << 20;

/** How a connection fails whose other end went away, and needs nothing more. */
const gone: ReadonlySet<string> = new Set(['ERR_STREAM_PREMATURE_CLOSE', 'ECONNRESET', 'EPIPE']);

function errorCode(error: unknown): string {
  return error instanceof Error && 'code' in error ? String(error.code) : '';
}

/** Sends a file from the disk as fast as it is read by the other end; its bytes were verified before the first of them. */
async function sendInPieces(
  { verified }: Serving,
  req: IncomingMessage,
  res: ServerResponse,
  { digest, sizeBytes, mediaType }: ServedFile,
  status: number,
  headers: readonly string[],
): Promise<void> {
  const handle = await verified.open(digest, sizeBytes);
  try {
    begin(res, status, headers, mediaType, sizeBytes);
    if (req.method === 'HEAD') return void res.end();
    const stream = handle.createReadStream({ start: 0, end: sizeBytes - 1, autoClose: false });
    try {
      await pipeline(stream, res, { end: false });
    } catch (error) {
      if (gone.has(errorCode(error))) return;
      throw error;
    }
    // What the disk held back must not pass for the end of the file, nor the next answer for the rest of it.
    if (stream.bytesRead !== sizeBytes)
      throw new BlobDamaged(`blob ${digest} became shorter while it was sent`);
    res.end();
  } finally {
    await handle.close();
  }
}

async function bytesOf(serving: Serving, file: ServedFile): Promise<Buffer> {
  const kept = serving.memory.get(file.digest);
  if (kept !== undefined) return kept;
  const bytes = await readVerified(serving.store, file.digest);
  serving.memory.keep(file.digest, bytes);
  return bytes;
}

/** The best encoding that the client takes and that has been made. Source: RFC 9110 section 12.5.3. */
function chosen(
  serving: Serving,
  file: ServedFile,
  accepted: string | undefined,
): Encoding | undefined {
  if (accepted === undefined) return undefined;
  serving.compressed.want(file.digest);
  return encodings.find(
    (encoding) =>
      accepts(accepted, encoding) && serving.compressed.get(file.digest, encoding) !== undefined,
  );
}

function accepts(accepted: string, encoding: string): boolean {
  return accepted.split(',').some((part) => {
    const [name, ...parameters] = part
      .trim()
      .split(';')
      .map((text) => text.trim());
    return name === encoding && !parameters.some((parameter) => /^q=0(?:\.0*)?$/.test(parameter));
  });
}

/** Weak comparison, as If-None-Match asks for. Source: RFC 9110 section 13.1.2. */
function matches(given: string | undefined, etag: string): boolean {
  if (given === undefined) return false;
  return given === '*' || given.split(',').some((one) => one.trim().replace(/^W\//, '') === etag);
}

/** Pages are revalidated on each request: nobody sees an old page after a deploy or a rollback. */
const always = ['Cache-Control', 'no-cache', 'X-Content-Type-Options', 'nosniff'];

function begin(
  res: ServerResponse,
  status: number,
  headers: readonly string[],
  mediaType: string,
  bytes: number,
): void {
  res.writeHead(status, [
    ...headers,
    ...always,
    'Content-Type',
    mediaType,
    'Content-Length',
    String(bytes),
  ]);
}

function send(
  req: IncomingMessage,
  res: ServerResponse,
  status: number,
  headers: readonly string[],
  mediaType: string,
  body: Buffer,
): void {
  begin(res, status, headers, mediaType, body.length);
  if (req.method === 'HEAD') res.end();
  else res.end(body);
}
