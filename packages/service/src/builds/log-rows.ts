import { promisify } from 'node:util';
import { gunzip, gzip } from 'node:zlib';
import type { roleRoutes } from '@vaquero/contracts';
import { cutLog } from '@vaquero/core';
import { and, asc, desc, eq, gte, isNotNull, lt, lte, max, type SQL, sql } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { attempts, logChunks } from '../database/tables.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';

type LogSegments = roleRoutes.LogSegments;

const zip = promisify(gzip);
const unzip = promisify(gunzip);

/** A log that is over is kept in pieces of this size, each compressed by itself. */
const pieceBytes = 256 << 10;
/** So many pieces are read at once. */
const piecesInTurn = 64;

/** A piece of a log as it came: bytes at an offset, and which step said what of them. */
export interface LogPiece {
  readonly offset: number;
  readonly bytes: Buffer;
  readonly segments: LogSegments;
}

/** A stretch of a log as it is read: where it begins, and how many lines had ended before it where that was counted. */
export interface ReadPiece {
  readonly offset: number;
  readonly linesBefore: number | null;
  readonly bytes: Buffer;
}

/**
 * Keeps log bytes at their offset. Bytes that are kept already are taken without harm, so a runner may
 * send again after a lost reply. Returns false for a gap: the runner then begins anew where it was.
 */
export async function keepLog(
  db: Db,
  attempt: { readonly id: string; readonly logBytes: number },
  { offset, bytes, segments }: LogPiece,
): Promise<boolean> {
  const known = attempt.logBytes;
  if (offset > known) return false;
  const fresh = bytes.subarray(Math.min(bytes.length, known - offset));
  if (fresh.length === 0) return true;
  const own = segments.filter((segment) => segment.offset >= known);
  try {
    await db.insert(logChunks).values({
      attemptId: attempt.id,
      offset: known,
      bytes: fresh,
      segments: own.length === 0 ? null : own,
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
  }
  await db
    .update(attempts)
    .set({ logBytes: sql`greatest(${attempts.logBytes}, ${known + fresh.length})` })
    .where(eq(attempts.id, attempt.id));
  return true;
}

/**
 * Which step said which part of an attempt's log, and when, in the order of the log: of the whole, or of a stretch of it
 * (`from`, `to` in bytes) with what was being said at its beginning.
 */
export async function segmentsOf(
  db: Db,
  attemptId: string,
  stretch?: { readonly from: number; readonly to: number },
): Promise<LogSegments> {
  const own = [eq(logChunks.attemptId, attemptId), isNotNull(logChunks.segments)];
  const said = (...more: SQL[]) =>
    db
      .select({ segments: logChunks.segments })
      .from(logChunks)
      .where(and(...own, ...more))
      .orderBy(asc(logChunks.offset));
  if (stretch === undefined) return (await said()).flatMap(({ segments }) => segments ?? []);
  // Of two pieces before, for the later one may begin to say something behind the beginning of the stretch.
  const before = db
    .select({ at: logChunks.offset })
    .from(logChunks)
    .where(and(...own, lte(logChunks.offset, stretch.from)))
    .orderBy(desc(logChunks.offset))
    .limit(1)
    .offset(1);
  const rows = await said(
    gte(logChunks.offset, sql`ifnull((${before}), 0)`),
    lt(logChunks.offset, stretch.to),
  );
  return rows.flatMap(({ segments }) => segments ?? []);
}

/** How many bytes of an attempt's log have come, and whether it is over and kept. */
export async function howFar(
  db: Db,
  attemptId: string,
): Promise<{ readonly bytes: number; readonly isKept: boolean }> {
  const [row] = await db
    .select({ bytes: attempts.logBytes, isKept: attempts.logKept })
    .from(attempts)
    .where(eq(attempts.id, attemptId));
  return { bytes: row?.bytes ?? 0, isKept: row?.isKept ?? false };
}

/** An attempt's log from an offset on, piece after piece, also where it is packed meanwhile: what was read stays read. */
export async function* readPieces(
  db: Db,
  attemptId: string,
  from: number,
): AsyncGenerator<ReadPiece> {
  let at = from;
  for (;;) {
    const began = at;
    for (const row of await piecesAt(db, attemptId, at)) {
      const bytes = row.isZipped ? await unzip(row.bytes) : row.bytes;
      if (row.offset > at) return;
      const fresh = bytes.subarray(at - row.offset);
      if (fresh.length === 0) continue;
      yield { offset: at, linesBefore: at === row.offset ? row.linesBefore : null, bytes: fresh };
      at += fresh.length;
    }
    if (at === began) return;
  }
}

async function piecesAt(db: Db, attemptId: string, at: number) {
  const earlier = db
    .select({ at: max(logChunks.offset) })
    .from(logChunks)
    .where(and(eq(logChunks.attemptId, attemptId), lte(logChunks.offset, at)));
  return await db
    .select()
    .from(logChunks)
    .where(
      and(eq(logChunks.attemptId, attemptId), gte(logChunks.offset, sql`ifnull((${earlier}), 0)`)),
    )
    .orderBy(asc(logChunks.offset))
    .limit(piecesInTurn);
}

/** The bytes of an attempt's log from an offset on. */
export async function readLog(db: Db, attemptId: string, from: number): Promise<Buffer> {
  const read: Buffer[] = [];
  for await (const { bytes } of readPieces(db, attemptId, from)) read.push(bytes);
  return Buffer.concat(read);
}

/**
 * Where a line of a packed log is looked for: the offset of the piece in which the line before it ends. Null where lines
 * were not counted: in a log that is still coming. One that was packed before 0.19 is packed anew.
 */
export async function pieceOfLine(db: Db, attemptId: string, line: number): Promise<number | null> {
  if (!(await howFar(db, attemptId)).isKept) return null;
  const [first] = await db
    .select({ linesBefore: logChunks.linesBefore })
    .from(logChunks)
    .where(and(eq(logChunks.attemptId, attemptId), eq(logChunks.offset, 0)));
  if (first?.linesBefore === null) await packLog(db, attemptId);
  const [row] = await db
    .select({ at: max(logChunks.offset) })
    .from(logChunks)
    .where(and(eq(logChunks.attemptId, attemptId), lt(logChunks.linesBefore, line - 1)));
  return row?.at ?? 0;
}

/** Packs the log of an attempt that is over: into pieces that end with a line, each compressed, with how many lines were before it. */
export async function packLog(db: Db, attemptId: string): Promise<void> {
  const [whole, segments] = await Promise.all([
    readLog(db, attemptId, 0),
    segmentsOf(db, attemptId),
  ]);
  const packed = await Promise.all(
    cutLog(whole, pieceBytes).map(async ({ from, to, linesBefore }) => {
      const own = segments.filter(({ offset }) => offset >= from && offset < to);
      return {
        attemptId,
        offset: from,
        linesBefore,
        isZipped: true,
        bytes: await zip(whole.subarray(from, to)),
        segments: own.length === 0 ? null : own,
      };
    }),
  );
  await inTransaction(db, async (tx) => {
    await tx.delete(logChunks).where(eq(logChunks.attemptId, attemptId));
    for (let at = 0; at < packed.length; at += piecesInTurn)
      await tx.insert(logChunks).values(packed.slice(at, at + piecesInTurn));
    await tx.update(attempts).set({ logKept: true }).where(eq(attempts.id, attemptId));
  });
}
