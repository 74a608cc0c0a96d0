import { randomBytes } from 'node:crypto';
import type { FileHandle } from 'node:fs/promises';
import type { IncomingMessage, ServerResponse } from 'node:http';
import fresh from 'fresh';
import parseRange from 'range-parser';
import { piecesOf } from '../blobs/pieces.ts';
import { BlobDamaged } from '../blobs/read-blob.ts';
import type { ServedFile } from '../routing/artifact-index.ts';
import type { Place } from '../routing/live-table.ts';
import { type Head, headList } from './head.ts';
import { type Bytes, type Representation, representationOf } from './representation.ts';
import { giveAgain } from './same-again.ts';

/** More pieces than this are not cut: whoever asks for so many gets all of it. */
const mostPieces = 16;

/** What of a body went out. */
export interface Sent {
  readonly bytes: number;
  /** When its first byte did, if that was long before the last; by the clock of performance.now(). */
  readonly at: number | null;
}

export const nothingSent: Sent = { bytes: 0, at: null };

interface Piece {
  readonly start: number;
  readonly end: number;
}

/**
 * Sends a published file: whole, in the pieces that were asked for, or only what says that it is the one which is
 * known already. `again` is the place where the same is answered each time. Throws BlobDamaged before anything was
 * sent. Source: RFC 9110 sections 8.8, 12.5, 13 and 14.
 */
export async function sendFile(
  bytes: Bytes,
  req: IncomingMessage,
  res: ServerResponse,
  file: ServedFile,
  status: 200 | 404,
  head: Head,
  again: Place | null = null,
): Promise<Sent> {
  const chosen = representationOf(bytes, req, file);
  const fields = fieldsOf(chosen, file);
  const begin = (code: number, more: readonly string[]): void => {
    res.writeHead(code, headList(head, [...fields, ...more]));
  };
  const over = status === 200 ? conditionOver(req, chosen) : null;
  if (over !== null) {
    begin(over, over === 412 ? ['Content-Length', '0'] : []);
    res.end();
    return nothingSent;
  }
  const pieces = status === 200 ? piecesAskedFor(req, chosen) : null;
  if (pieces === 'none') {
    begin(416, ['Content-Range', `bytes */${chosen.sizeBytes}`, 'Content-Length', '0']);
    res.end();
    return nothingSent;
  }
  // A type that the site says is that of each piece; what frames several of them has its own.
  const mediaType = head.said.get('content-type') ?? file.mediaType;
  const plan = planOf(pieces, mediaType, chosen.sizeBytes);
  const code = pieces === null ? status : 206;
  if (again !== null && pieces === null && chosen.whole !== null && chosen.isSettled) {
    const list = headList(head, [...fields, ...plan.fields]);
    giveAgain(again, req, { list, key: chosen.key });
  }
  return send(req, res, chosen, plan.parts, () => begin(code, plan.fields));
}

/** The status of a request whose condition says that nothing of the file is to be sent; null when it is. */
function conditionOver({ headers }: IncomingMessage, { etag }: Representation): 304 | 412 | null {
  if (!holdsFor(headers['if-match'], etag)) return 412;
  return fresh(headers, { etag }) ? 304 : null;
}

/** What is said of a form of a file, whatever of it is sent. */
function fieldsOf(chosen: Representation, file: ServedFile): readonly string[] {
  return [
    'ETag',
    chosen.etag,
    ...(file.isText ? ['Vary', 'Accept-Encoding'] : []),
    ...(chosen.encoding === null
      ? ['Accept-Ranges', 'bytes']
      : ['Content-Encoding', chosen.encoding]),
  ];
}

/** What goes out, in turn: texts between pieces, and pieces of the file; with the fields that frame it. */
interface Plan {
  readonly fields: readonly string[];
  readonly parts: readonly (string | Piece)[];
}

/** One piece is sent as it is, several as parts of one body. Source: RFC 9110 section 14.6, RFC 2046 section 5.1. */
function planOf(pieces: readonly Piece[] | null, mediaType: string, sizeBytes: number): Plan {
  const rangeOf = ({ start, end }: Piece): string => `bytes ${start}-${end}/${sizeBytes}`;
  const [first, ...others] = pieces ?? [{ start: 0, end: sizeBytes - 1 }];
  if (first === undefined || others.length === 0) {
    const parts = first === undefined ? [] : [first];
    const length = String(first === undefined ? 0 : first.end - first.start + 1);
    const range = pieces === null || first === undefined ? [] : ['Content-Range', rangeOf(first)];
    return { fields: ['Content-Type', mediaType, ...range, 'Content-Length', length], parts };
  }
  const boundary = randomBytes(18).toString('hex');
  const parts = [first, ...others].flatMap((piece, place): (string | Piece)[] => [
    `${place === 0 ? '' : '\r\n'}--${boundary}\r\nContent-Type: ${mediaType}\r\nContent-Range: ${rangeOf(piece)}\r\n\r\n`,
    piece,
  ]);
  parts.push(`\r\n--${boundary}--\r\n`);
  const length = parts.reduce(
    (sum, part) =>
      sum + (typeof part === 'string' ? Buffer.byteLength(part) : part.end - part.start + 1),
    0,
  );
  const type = `multipart/byteranges; boundary=${boundary}`;
  return { fields: ['Content-Type', type, 'Content-Length', String(length)], parts };
}

/** The pieces that are asked for; null for all of it, `none` where nothing of what is asked for is there. */
function piecesAskedFor(
  { method, headers }: IncomingMessage,
  { sizeBytes, encoding, etag }: Representation,
): readonly Piece[] | 'none' | null {
  if (method !== 'GET' || headers.range === undefined || encoding !== null) return null;
  // Pieces of other bytes would not fit: they are asked for only while the file is the one that is known.
  const condition = headers['if-range'];
  if (condition !== undefined && condition !== etag) return null;
  const read = parseRange(sizeBytes, headers.range, { combine: true });
  if (read === -1) return 'none';
  if (read === -2 || read.type !== 'bytes' || read.length > mostPieces) return null;
  return read.map(({ start, end }) => ({ start, end }));
}

/** Strong comparison, as If-Match asks for. Source: RFC 9110 section 13.1.1. */
function holdsFor(given: string | undefined, etag: string): boolean {
  if (given === undefined || given === '*') return true;
  return given.split(',').some((one) => one.trim() === etag);
}

async function send(
  req: IncomingMessage,
  res: ServerResponse,
  { sizeBytes, whole, open }: Representation,
  parts: Plan['parts'],
  begin: () => void,
): Promise<Sent> {
  const isHead = req.method === 'HEAD';
  if (whole !== null) {
    const held = whole();
    const bytes = held instanceof Buffer ? held : await held;
    if (bytes.length !== sizeBytes) throw new BlobDamaged('a file is not as long as it was');
    begin();
    const body = isHead ? undefined : bodyOf(bytes, parts);
    res.end(body);
    return { bytes: body?.length ?? 0, at: null };
  }
  const handle = await open();
  try {
    begin();
    const at = performance.now();
    let bytes = 0;
    for (const part of isHead ? [] : parts) {
      const sent =
        typeof part === 'string' ? await write(res, part) : await sendPiece(res, handle, part);
      bytes += sent ?? 0;
      if (sent === null) return { bytes, at };
    }
    res.end();
    return { bytes, at };
  } finally {
    await handle.close();
  }
}

/** The parts of a body whose file is held whole. */
function bodyOf(bytes: Buffer, parts: Plan['parts']): Buffer {
  const [only, ...others] = parts;
  if (others.length === 0 && typeof only === 'object')
    return bytes.subarray(only.start, only.end + 1);
  return Buffer.concat(
    parts.map((part) =>
      typeof part === 'string' ? Buffer.from(part) : bytes.subarray(part.start, part.end + 1),
    ),
  );
}

/** Writes bytes once there is room for them, and says how many; null when the other end went away. */
async function write(res: ServerResponse, bytes: string | Buffer): Promise<number | null> {
  if (res.destroyed) return null;
  const { length } = bytes;
  if (res.write(bytes)) return length;
  await new Promise<void>((resolve) => {
    const done = (): void => {
      res.off('drain', done);
      res.off('close', done);
      resolve();
    };
    res.once('drain', done);
    res.once('close', done);
  });
  return res.destroyed ? null : length;
}

/** Sends a piece from the disk as fast as it is read by the other end, and says how much; null when that went away. */
async function sendPiece(
  res: ServerResponse,
  handle: FileHandle,
  { start, end }: Piece,
): Promise<number | null> {
  let sent = 0;
  for await (const piece of piecesOf(handle, start, end)) {
    if ((await write(res, piece)) === null) return null;
    sent += piece.length;
  }
  // What the disk held back must not pass for the end of the file, nor the next answer for the rest of it.
  if (sent !== end - start + 1) throw new BlobDamaged('a file became shorter while it was sent');
  return sent;
}
