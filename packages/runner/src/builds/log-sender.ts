/** Sends a build's log as it comes: one piece under way, what is said meanwhile joins the next. */
export interface LogSender {
  /** Takes bytes; false once the log has passed its limit. */
  readonly say: (bytes: Buffer) => boolean;
  /** Bytes said so far: where the next line will stand. */
  readonly length: () => number;
  /** Waits until all is kept by the api. */
  readonly flush: () => Promise<void>;
}

const largestPiece = 1 << 20;

/** Makes a sender; `send` gets pieces in order with their offsets and is called again only after it has settled. */
export function makeLogSender(
  send: (offset: number, bytes: Buffer) => Promise<void>,
  limitBytes: number,
  lost: (error: unknown) => void,
): LogSender {
  let said = 0;
  let sent = 0;
  let waiting: Buffer[] = [];
  let sending: Promise<void> | null = null;
  let broken = false;

  async function drain(): Promise<void> {
    while (waiting.length > 0 && !broken) {
      const whole = waiting.length === 1 ? (waiting[0] ?? Buffer.alloc(0)) : Buffer.concat(waiting);
      const piece = whole.subarray(0, largestPiece);
      waiting = whole.length > piece.length ? [whole.subarray(piece.length)] : [];
      try {
        await send(sent, piece);
        sent += piece.length;
      } catch (error) {
        broken = true;
        lost(error);
      }
    }
    sending = null;
  }

  return {
    say: (bytes) => {
      if (said >= limitBytes) return false;
      const kept = bytes.subarray(0, limitBytes - said);
      said += kept.length;
      // Once the receiver is gone nothing is kept for it; a drain with nothing to do would never be over.
      if (broken) return said < limitBytes;
      waiting.push(kept);
      sending ??= drain();
      return said < limitBytes;
    },
    length: () => said,
    flush: async () => {
      while (sending !== null) await sending;
    },
  };
}
