import type { Response } from 'express';
import type { Deps } from '../base/deps.ts';
import { whenClosed } from '../base/when-closed.ts';
import { howFar, readPieces } from './log-rows.ts';

/** A reader that does not keep up would fill the memory: it is cut off, and goes on where it was when it can. */
const mostUnreadBytes = 4 << 20;
/** What a runner told another api process is found after this long. */
const lookEveryMs = 1000;

/**
 * Streams a log as server-sent events from a byte offset on. The id of each event is the offset behind
 * it, so a reader that lost its connection goes on without loss or doubles; `end` closes the log.
 * Source: WHATWG HTML, section 9.2 (server-sent events).
 */
export async function streamLog(
  deps: Deps,
  res: Response,
  attempt: { readonly id: string; readonly state: string } | null,
  from: number,
): Promise<void> {
  res.writeHead(200, {
    'content-type': 'text/event-stream; charset=utf-8',
    'cache-control': 'no-store',
    'x-accel-buffering': 'no',
  });
  res.write(': the log follows\n\n');
  if (attempt === null) {
    res.end('event: none\ndata: \n\n');
    return;
  }
  let sent = from;
  let live = false;
  let over = attempt.state !== 'running';
  const waiting: { offset: number; bytes: Buffer }[] = [];
  const give = (offset: number, bytes: Buffer): void => {
    const fresh = bytes.subarray(Math.max(0, sent - offset));
    if (offset > sent || fresh.length === 0) return;
    sent += fresh.length;
    res.write(`id: ${sent}\ndata: ${JSON.stringify(fresh.toString('latin1'))}\n\n`);
    if (live && res.writableLength > mostUnreadBytes) res.destroy();
  };
  const end = (): void => void (res.writableEnded || res.end('event: end\ndata: \n\n'));
  // Chunks told while the kept part is being read wait for it; each is given once, in order of its offset.
  const quit = deps.logs.listen(attempt.id, (chunk) => {
    if (chunk === null) over = true;
    else if (live) give(chunk.offset, chunk.bytes);
    else waiting.push(chunk);
    if (over && live) end();
  });
  const giveKept = async (): Promise<void> => {
    for await (const { offset, bytes } of readPieces(deps.db, attempt.id, sent)) {
      if (res.writableEnded || res.destroyed) return;
      give(offset, bytes);
    }
  };
  const look = async (): Promise<void> => {
    const { bytes, isKept } = await howFar(deps.db, attempt.id);
    if (!live || res.writableEnded) return;
    if (bytes > sent) await giveKept();
    if (isKept) end();
  };
  const timer = setInterval(() => {
    look().catch((err: unknown) => deps.log.warn({ err }, 'a log could not be looked at'));
  }, lookEveryMs);
  whenClosed(res, () => {
    clearInterval(timer);
    quit();
  });
  await giveKept();
  for (const chunk of waiting) give(chunk.offset, chunk.bytes);
  live = true;
  if (over) end();
}
