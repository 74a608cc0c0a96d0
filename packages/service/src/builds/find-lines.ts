import { setImmediate as breathe } from 'node:timers/promises';
import type { buildRoutes } from '@vaquero/contracts';
import {
  endsOfLines,
  type Instant,
  LinesOfPieces,
  type PlacedLine,
  type SaidLine,
  saidLines,
} from '@vaquero/core';
import type { z } from 'zod';
import type { Db } from '../database/pool.ts';
import { pieceOfLine, readPieces, segmentsOf } from './log-rows.ts';

type Wanted = z.output<typeof buildRoutes.logLinesRoute.query>;
type Reply = z.output<typeof buildRoutes.logLinesRoute.reply>;

/** Of a log so many lines are made at its beginning, and as many at its end: one of empty lines has 33 million. */
const mostLines = 150_000;

/** The lines of an attempt's log, each with the step that said it and when; of one without end those in its middle are left out. */
export async function linesOf(db: Db, attemptId: string): Promise<readonly SaidLine[]> {
  const segments = await segmentsOf(db, attemptId);
  const lines: PlacedLine[] = [];
  for await (const some of boundedLines(db, attemptId)) for (const line of some) lines.push(line);
  return saidLines(lines, segments);
}

/** All lines of a log or, of one without end, those of its beginning and its end. */
async function* boundedLines(db: Db, attemptId: string): AsyncGenerator<readonly PlacedLine[]> {
  const total = await countLines(db, attemptId);
  const isBounded = total > 2 * mostLines;
  yield* linesBetween(db, attemptId, 1, isBounded ? mostLines + 1 : total + 1);
  if (isBounded) yield* linesBetween(db, attemptId, total - mostLines + 1, total + 1);
}

/**
 * The lines of a log that are asked for: of one step, holding a text; from a number on, or the last ones before one. Where all
 * lines are wanted only the pieces that hold them are opened; for those of a step or with a text all are, one after the other.
 */
export async function findLines(db: Db, attemptId: string, wanted: Wanted): Promise<Reply> {
  const isWhole = wanted.step === undefined && wanted.find === undefined;
  return isWhole ? await linesAt(db, attemptId, wanted) : await linesWith(db, attemptId, wanted);
}

async function linesAt(db: Db, attemptId: string, wanted: Wanted): Promise<Reply> {
  const { limit, before } = wanted;
  const total = await countLines(db, attemptId);
  const from = wanted.from ?? 1;
  const behind = Math.min(total + 1, before ?? from + limit);
  const first = before === undefined ? from : Math.max(1, behind - limit);
  const lines: PlacedLine[] = [];
  for await (const some of linesBetween(db, attemptId, first, behind)) lines.push(...some);
  const segments = await segmentsOf(db, attemptId, {
    from: lines[0]?.offset ?? 0,
    to: (lines.at(-1)?.offset ?? 0) + 1,
  });
  return {
    lines: saidLines(lines, segments).map(asTold),
    more: behind <= total,
    earlier: first > 1 && total > 0,
    found: total,
    total,
  };
}

async function linesWith(db: Db, attemptId: string, wanted: Wanted): Promise<Reply> {
  const { step, from = 1, before, limit } = wanted;
  const text = wanted.find?.toLowerCase();
  const segments = await segmentsOf(db, attemptId);
  const lines: SaidLine[] = [];
  const told = { more: false, earlier: false, found: 0, total: 0 };
  const take = (line: SaidLine): void => {
    told.found += 1;
    if (before === undefined ? line.number < from : line.number >= before)
      told[before === undefined ? 'earlier' : 'more'] = true;
    else if (lines.length < limit) lines.push(line);
    else if (before === undefined) told.more = true;
    else {
      lines.push(line);
      lines.shift();
      told.earlier = true;
    }
  };
  for await (const some of boundedLines(db, attemptId)) {
    told.total = some.at(-1)?.number ?? told.total;
    for (const line of saidLines(some, segments))
      if (
        (step === undefined || line.step === step) &&
        (text === undefined || line.text.toLowerCase().includes(text))
      )
        take(line);
  }
  return { lines: lines.map(asTold), ...told };
}

const asTold = (line: SaidLine) => ({ ...line, at: line.at as Instant | null });

/** How many lines a log has, one that was begun among them. */
async function countLines(db: Db, attemptId: string): Promise<number> {
  const last = (await pieceOfLine(db, attemptId, Number.MAX_SAFE_INTEGER)) ?? 0;
  let ended = 0;
  let isBegun = false;
  for await (const { bytes, linesBefore } of readPieces(db, attemptId, last)) {
    ended = (linesBefore ?? ended) + endsOfLines(bytes);
    isBegun = bytes.at(-1) !== 10;
  }
  return ended + (isBegun ? 1 : 0);
}

/** Lines of a log from number `first` on and before `behind`, piece after piece. */
async function* linesBetween(
  db: Db,
  attemptId: string,
  first: number,
  behind: number,
): AsyncGenerator<readonly PlacedLine[]> {
  if (first >= behind) return;
  for await (const some of linesFrom(db, attemptId, first)) {
    const wanted = some.filter(({ number }) => number < behind);
    if (wanted.length > 0) yield wanted;
    if (wanted.length < some.length || wanted.at(-1)?.number === behind - 1) return;
  }
}

/** Lines of a log, piece after piece, from the piece on in which the line `first` begins; others have their turn in between. */
async function* linesFrom(
  db: Db,
  attemptId: string,
  first: number,
): AsyncGenerator<readonly PlacedLine[]> {
  const start = (await pieceOfLine(db, attemptId, first)) ?? 0;
  let lines: LinesOfPieces | null = null;
  for await (const { offset, bytes, linesBefore } of readPieces(db, attemptId, start)) {
    lines ??= new LinesOfPieces({ offset, linesBefore: linesBefore ?? 0, first }, textOf);
    yield lines.take(bytes);
    await breathe();
  }
  if (lines !== null) yield lines.rest();
}

function textOf(parts: readonly Uint8Array[]): string {
  const [only, ...more] = parts;
  if (only === undefined) return '';
  return more.length > 0
    ? Buffer.concat(parts).toString('utf8')
    : Buffer.from(only.buffer, only.byteOffset, only.length).toString('utf8');
}
