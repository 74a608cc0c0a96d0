import type { buildRoutes } from '@vaquero/contracts';
import { type Instant, type SaidLine, saidLines } from '@vaquero/core';
import type { z } from 'zod';
import type { Db } from '../database/pool.ts';
import { readLog, segmentsOf } from './log-rows.ts';

type Wanted = z.output<typeof buildRoutes.logLinesRoute.query>;
type Reply = z.input<typeof buildRoutes.logLinesRoute.reply>;

/** All lines of an attempt's log, each with the step that said it and when. */
export async function linesOf(db: Db, attemptId: string): Promise<readonly SaidLine[]> {
  const [whole, segments] = await Promise.all([
    readLog(db, attemptId, 0),
    segmentsOf(db, attemptId),
  ]);
  const lines: { offset: number; text: string }[] = [];
  for (let from = 0; from < whole.length; ) {
    const end = whole.indexOf(10, from);
    const to = end === -1 ? whole.length : end;
    lines.push({ offset: from, text: whole.toString('utf8', from, to) });
    from = to + 1;
  }
  return saidLines(lines, segments);
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
