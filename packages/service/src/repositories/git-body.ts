import type { IncomingMessage } from 'node:http';
import { type Readable, Transform } from 'node:stream';
import { createGunzip } from 'node:zlib';

/** Git compresses lists of object names, which shrink to half; beyond this nobody meant to send it. */
const mostRatio = 100;
/** So little is let pass whatever its ratio. */
const freeBytes = 1 << 20;

/** A body of Git's is larger than it may be. */
export class BodyTooLarge extends Error {
  override readonly name = 'BodyTooLarge';
  readonly most: number;

  constructor(most: number) {
    super(`the body is over ${most} bytes`);
    this.most = most;
  }
}

/**
 * The body of a call of Git's as a stream, inflated where it came compressed, and never whole in memory. Fails with
 * BodyTooLarge where it has more bytes than `most`, or grows by more than what Git sends could.
 */
export function gitBody(req: IncomingMessage, most: number): Readable {
  const isCompressed = req.headers['content-encoding'] === 'gzip';
  let came = 0;
  let passed = 0;
  const bounded = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      passed += chunk.length;
      const isBomb = isCompressed && passed > freeBytes && passed > came * mostRatio;
      done(
        passed > most || isBomb ? new BodyTooLarge(isBomb ? came * mostRatio : most) : null,
        chunk,
      );
    },
  });
  if (!isCompressed) return joined(req, bounded);
  req.on('data', (chunk: Buffer) => {
    came += chunk.length;
  });
  return joined(req, createGunzip(), bounded);
}

/** Streams one behind the other: what ends or breaks one ends or breaks those behind it. */
function joined(first: Readable, ...others: readonly Transform[]): Readable {
  return others.reduce<Readable>((from, to) => {
    from.once('error', (error) => to.destroy(error));
    return from.pipe(to);
  }, first);
}
