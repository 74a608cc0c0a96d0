import type { FileHandle } from 'node:fs/promises';

const pieceBytes = 1 << 18;

/**
 * Bytes of an open file from a place to another, both included, piece by piece; less where the file is shorter. The
 * file stays open: a stream of Node's would wait to be closed with it, or close it.
 */
export async function* piecesOf(
  file: FileHandle,
  start: number,
  end: number,
): AsyncGenerator<Buffer, void, undefined> {
  for (let at = start; at <= end; ) {
    const length = Math.min(pieceBytes, end - at + 1);
    const { bytesRead, buffer } = await file.read(Buffer.allocUnsafe(length), 0, length, at);
    if (bytesRead === 0) return;
    at += bytesRead;
    yield buffer.subarray(0, bytesRead);
  }
}
