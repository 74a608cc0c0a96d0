/** Where bytes of a log came from and when. */
export interface Segment {
  readonly offset: number;
  readonly step: string;
  readonly at: number;
}

/** Sends a build's log as it comes: one piece under way, what is said meanwhile joins the next. */
export interface LogSender {
  /** Takes what a step said; false once the log has passed its limit. */
  readonly say: (bytes: Buffer, step: string) => boolean;
  /** Bytes said so far: where the next line will stand. */
  readonly length: () => number;
  /** Waits until all is kept by the api. */
  readonly flush: () => Promise<void>;
}

const largestPiece = 1 << 20;
/** Segments travel in the address of a call, whose length is bounded. */
const mostSegments = 60;
/** Lines of one step within this time share a time stamp. */
const sameMomentMs = 100;

/** Makes a sender; `send` gets pieces in order with their offsets and is called again only after it has settled. */
export function makeLogSender(
  send: (offset: number, bytes: Buffer, segments: readonly Segment[]) => Promise<void>,
  limitBytes: number,
  lost: (error: unknown) => void,
  clock: () => number = Date.now,
): LogSender {
  let said = 0;
  let sent = 0;
  let waiting: Buffer[] = [];
  let segments: Segment[] = [];
  let last: Segment | null = null;
  let sending: Promise<void> | null = null;
  let broken = false;

  async function drain(): Promise<void> {
    while (waiting.length > 0 && !broken) {
      const whole = waiting.length === 1 ? (waiting[0] ?? Buffer.alloc(0)) : Buffer.concat(waiting);
      const beyond = segments[mostSegments]?.offset ?? Number.POSITIVE_INFINITY;
      const piece = whole.subarray(0, Math.min(largestPiece, beyond - sent));
      const end = sent + piece.length;
      const own = segments.filter((segment) => segment.offset < end);
      segments = segments.slice(own.length);
      waiting = whole.length > piece.length ? [whole.subarray(piece.length)] : [];
      try {
        await send(sent, piece, own);
        sent = end;
      } catch (error) {
        broken = true;
        lost(error);
      }
    }
    sending = null;
  }

  return {
    say: (bytes, step) => {
      if (said >= limitBytes) return false;
      const kept = bytes.subarray(0, limitBytes - said);
      const at = clock();
      if (last === null || last.step !== step || at - last.at > sameMomentMs) {
        last = { offset: said, step, at };
        if (!broken) segments.push(last);
      }
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
