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

/** The lines of a log that are asked for: of one step, holding a text, from a number on. */
export async function findLines(db: Db, attemptId: string, wanted: Wanted): Promise<Reply> {
  const text = wanted.find?.toLowerCase();
  const found = (await linesOf(db, attemptId)).filter(
    (line) =>
      line.number >= (wanted.from ?? 1) &&
      (wanted.step === undefined || line.step === wanted.step) &&
      (text === undefined || line.text.toLowerCase().includes(text)),
  );
  return {
    lines: found.slice(0, wanted.limit).map((line) => ({ ...line, at: line.at as Instant | null })),
    more: found.length > wanted.limit,
  };
}
