import { connect } from 'node:net';
import type { TestService } from '../support/service.ts';

/** One attempt at something that must not be possible: what was tried, what was expected, what was seen. */
export interface Attempt {
  readonly what: string;
  readonly expected: string;
  readonly held: boolean;
  readonly saw: string;
}

/** An instance under attack: its project `target` has been pushed to, `other` is somebody else's. */
export interface Target {
  readonly service: TestService;
  /** A builder of `target` who may see nothing of `other`. */
  readonly builder: { readonly secret: string; readonly git: string };
  readonly push: (
    files: Readonly<Record<string, string>>,
  ) => Promise<{ readonly state: string; readonly log: string; readonly why: string }>;
}

/** Attempts of one kind. */
export type Attack = (target: Target) => Promise<readonly Attempt[]>;

/** Judges what was seen by a pattern. */
export function judge(what: string, expected: RegExp, saw: string): Attempt {
  const short = saw.slice(0, 300);
  return { what, expected: expected.source, held: expected.test(saw), saw: short };
}

/** Sends bytes as they are to a port and returns what comes back until the other end closes, or for so long. */
export function raw(port: number, bytes: string | Buffer, withinMs = 3000): Promise<string> {
  return new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1');
    const chunks: Buffer[] = [];
    const end = (): void => {
      clearTimeout(timer);
      socket.destroy();
      resolve(Buffer.concat(chunks).toString('latin1'));
    };
    const timer = setTimeout(end, withinMs);
    socket.on('data', (chunk: Buffer) => {
      chunks.push(chunk);
      if (chunks.reduce((sum, one) => sum + one.length, 0) > 1 << 20) end();
    });
    socket.on('error', end).on('close', end);
    socket.write(bytes);
  });
}
