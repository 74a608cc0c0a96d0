import type { LogSender } from './log-sender.ts';

/** What one step says: whole lines, masked, on their way to the build's log. */
export interface StepLog {
  /** Takes bytes of the process; false once the log is full. */
  readonly hear: (bytes: Buffer) => boolean;
  /** Says a line of Vaquero's own. */
  readonly say: (line: string) => void;
  /** Sends what stands in an unfinished line. */
  readonly end: () => void;
}

/** A line that never ends is sent on in pieces of this size. */
const longestLine = 64 << 10;

/**
 * Makes a step's log. Only whole lines go on, so that the lines of steps side by side do not mix and a
 * secret is seen although it was written in two pieces.
 */
export function makeStepLog(
  sender: LogSender,
  step: string,
  mask: (line: string) => string,
): StepLog {
  let open = Buffer.alloc(0);
  let isFull = false;
  const send = (bytes: Buffer): void => {
    const text = mask(bytes.toString('utf8'));
    if (!sender.say(Buffer.from(text), step)) isFull = true;
  };
  return {
    hear: (bytes) => {
      const whole = open.length === 0 ? bytes : Buffer.concat([open, bytes]);
      const end = whole.lastIndexOf(10) + 1;
      if (end > 0) send(whole.subarray(0, end));
      open = Buffer.from(whole.subarray(end));
      if (open.length > longestLine) {
        // Masked before it is cut, and the last quarter waits: no cut goes through a secret.
        open = Buffer.from(mask(open.toString('utf8')));
        send(open.subarray(0, -(longestLine >> 2)));
        open = open.subarray(-(longestLine >> 2));
      }
      return !isFull;
    },
    say: (line) => send(Buffer.from(`${line}\n`)),
    end: () => {
      if (open.length > 0) send(Buffer.concat([open, Buffer.from('\n')]));
      open = Buffer.alloc(0);
    },
  };
}
