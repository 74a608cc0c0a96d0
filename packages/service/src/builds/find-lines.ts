import { setImmediate as breathe } from 'node:timers/promises';
import type { buildRoutes } from '@vaquero/contracts';
import { type Instant, type SaidLine, saidLines } from '@vaquero/core';
import type { z } from 'zod';
import type { Db } from '../database/pool.ts';
import { readLog, segmentsOf } from './log-rows.ts';

type Wanted = z.output<typeof buildRoutes.logLinesRoute.query>;
type Reply = z.output<typeof buildRoutes.logLinesRoute.reply>;

/** Of a log so many lines are made at its beginning, and as many at its end: one of empty lines has 33 million. */
const mostLines = 150_000;
/** So many bytes are looked through before others have their turn. */
const bytesInTurn = 1 << 20;

/** The lines of an attempt's log, each with the step that said it and when; of one without end those in its middle are left out. */
export async function linesOf(db: Db, attemptId: string): Promise<readonly SaidLine[]> {
  const [whole, segments] = await Promise.all([
    readLog(db, attemptId, 0),
    segmentsOf(db, attemptId),
  ]);
  const ends = await countLines(whole);
  const lines: { number: number; offset: number; text: string }[] = [];
  let number = 0;
  let rested = 0;
  for (let from = 0; from < whole.length; ) {
    const end = whole.indexOf(10, from);
    const to = end === -1 ? whole.length : end;
    number += 1;
    if (number <= mostLines || number > ends - mostLines)
      lines.push({ number, offset: from, text: whole.toString('utf8', from, to) });
    from = to + 1;
    if (from - rested < bytesInTurn) continue;
    rested = from;
    await breathe();
  }
  return saidLines(lines, segments);
}

async function countLines(whole: Buffer): Promise<number> {
  let count = 0;
  for (let from = 0; from < whole.length; from += bytesInTurn) {
    for (const byte of whole.subarray(from, from + bytesInTurn)) if (byte === 10) count += 1;
    await breathe();
  }
  return count;
}

/** The lines of a log that are asked for: of one step, holding a text; from a number on, or the last ones before one. */
export async function findLines(db: Db, attemptId: string, wanted: Wanted): Promise<Reply> {
  const { step, from = 1, before, limit } = wanted;
  const text = wanted.find?.toLowerCase();
  const all = await linesOf(db, attemptId);
  const found = all.filter(
    (line) =>
      (step === undefined || line.step === step) &&
      (text === undefined || line.text.toLowerCase().includes(text)),
  );
  const firstAt = (number: number): number => {
    const at = found.findIndex((line) => line.number >= number);
    return at === -1 ? found.length : at;
  };
  const end =
    before === undefined ? Math.min(found.length, firstAt(from) + limit) : firstAt(before);
  const begin = before === undefined ? firstAt(from) : Math.max(0, end - limit);
  return {
    lines: found.slice(begin, end).map((line) => ({ ...line, at: line.at as Instant | null })),
    more: end < found.length,
    earlier: begin > 0,
    found: found.length,
    total: all.at(-1)?.number ?? 0,
  };
}
