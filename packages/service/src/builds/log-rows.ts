import { promisify } from 'node:util';
import { gunzip, gzip } from 'node:zlib';
import type { roleRoutes } from '@vaquero/contracts';
import { and, asc, eq, gte, lte, max, sql } from 'drizzle-orm';
import type { Db } from '../database/pool.ts';
import { attempts, logChunks } from '../database/tables.ts';
import { isDuplicate } from '../database/transaction.ts';

type LogSegments = roleRoutes.LogSegments;

const zip = promisify(gzip);
const unzip = promisify(gunzip);

/** A piece of a log as it came: bytes at an offset, and which step said what of them. */
export interface LogPiece {
  readonly offset: number;
  readonly bytes: Buffer;
  readonly segments: LogSegments;
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
    await db
      .insert(logChunks)
      .values({ attemptId: attempt.id, offset: known, bytes: fresh, segments: own });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
  }
  await db
    .update(attempts)
    .set({ logBytes: sql`greatest(${attempts.logBytes}, ${known + fresh.length})` })
    .where(eq(attempts.id, attempt.id));
  return true;
}

/** Which step said which part of an attempt's log, and when, in the order of the log. */
export async function segmentsOf(db: Db, attemptId: string): Promise<LogSegments> {
  const kept = await packedSegments(db, attemptId);
  if (kept !== null) return kept;
  const rows = await db
    .select({ segments: logChunks.segments })
    .from(logChunks)
    .where(eq(logChunks.attemptId, attemptId))
    .orderBy(asc(logChunks.offset));
  if (rows.length > 0) return rows.flatMap((chunk) => chunk.segments ?? []);
  // Packed in between: all pieces go at once.
  return (await packedSegments(db, attemptId)) ?? [];
}

async function packedSegments(db: Db, attemptId: string): Promise<LogSegments | null> {
  const [row] = await db
    .select({ segments: attempts.segments })
    .from(attempts)
    .where(eq(attempts.id, attemptId));
  return row?.segments ?? null;
}

/** How many bytes of an attempt's log have come, and whether it is over and kept. */
export async function howFar(
  db: Db,
  attemptId: string,
): Promise<{ readonly bytes: number; readonly isKept: boolean }> {
  const [row] = await db
    .select({ bytes: attempts.logBytes, isKept: sql<number>`${attempts.packedLog} is not null` })
    .from(attempts)
    .where(eq(attempts.id, attemptId));
  return { bytes: row?.bytes ?? 0, isKept: Number(row?.isKept ?? 0) === 1 };
}

/** The bytes of an attempt's log from an offset on. */
export async function readLog(db: Db, attemptId: string, from: number): Promise<Buffer> {
  const packed = await packedBytes(db, attemptId);
  if (packed !== null) return (await unzip(packed)).subarray(from);
  const earlier = db
    .select({ at: max(logChunks.offset) })
    .from(logChunks)
    .where(and(eq(logChunks.attemptId, attemptId), lte(logChunks.offset, from)));
  const rows = await db
    .select()
    .from(logChunks)
    .where(
      and(eq(logChunks.attemptId, attemptId), gte(logChunks.offset, sql`ifnull((${earlier}), 0)`)),
    )
    .orderBy(asc(logChunks.offset));
  if (rows.length > 0)
    return Buffer.concat(rows.map((chunk) => chunk.bytes)).subarray(from - (rows[0]?.offset ?? 0));
  // Packed in between: all pieces go at once.
  const since = await packedBytes(db, attemptId);
  return since === null ? Buffer.alloc(0) : (await unzip(since)).subarray(from);
}

async function packedBytes(db: Db, attemptId: string): Promise<Buffer | null> {
  const [row] = await db
    .select({ packed: attempts.packedLog })
    .from(attempts)
    .where(eq(attempts.id, attemptId));
  return row?.packed ?? null;
}

/** Packs the chunks of an attempt that is over into one gzip member. */
export async function packLog(db: Db, attemptId: string): Promise<void> {
  const [whole, segments] = await Promise.all([
    readLog(db, attemptId, 0),
    segmentsOf(db, attemptId),
  ]);
  await db
    .update(attempts)
    .set({ packedLog: await zip(whole), segments })
    .where(eq(attempts.id, attemptId));
  await db
    .delete(logChunks)
    .where(and(eq(logChunks.attemptId, attemptId), gte(logChunks.offset, 0)));
}
