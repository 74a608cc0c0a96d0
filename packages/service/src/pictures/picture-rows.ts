import type { Digest, Instant, PageToPicture } from '@vaquero/core';
import { and, asc, eq, lt, or, sql } from 'drizzle-orm';
import type { PageTaken } from '../database/kept-shapes.ts';
import type { Db } from '../database/pool.ts';
import { databaseNow, pictures, projects } from '../database/tables.ts';
import { inTransaction } from '../database/transaction.ts';

export type PicturesRow = typeof pictures.$inferSelect;

/** Pictures that nobody ends within this time are given to another runner. */
const takingMs = 180_000;
const mostTakings = 3;

/** Two artifacts of a project. */
export interface Pair {
  readonly projectId: string;
  readonly before: Digest;
  readonly after: Digest;
}

export async function picturesOf(
  db: Db,
  { projectId, before, after }: Pair,
): Promise<PicturesRow | undefined> {
  const [row] = await db
    .select()
    .from(pictures)
    .where(
      and(
        eq(pictures.projectId, projectId),
        eq(pictures.before, before),
        eq(pictures.after, after),
      ),
    );
  return row;
}

export async function picturesById(
  db: Db,
  projectId: string,
  id: string,
): Promise<PicturesRow | undefined> {
  const [row] = await db
    .select()
    .from(pictures)
    .where(and(eq(pictures.id, id), eq(pictures.projectId, projectId)));
  return row;
}

/** Has pictures taken of two artifacts; wanted twice is wanted once. */
export async function insertWanted(
  db: Db,
  row: Pair & {
    readonly id: string;
    readonly pages: readonly PageToPicture[];
    readonly now: Instant;
    readonly wantedAt: Instant;
  },
): Promise<void> {
  await db
    .insert(pictures)
    .values({ ...row, state: 'wanted' })
    .onDuplicateKeyUpdate({ set: { projectId: row.projectId } });
}

/** Gives the pictures that wait longest to whoever asks, for a while; undefined when none wait. */
export function takeWanted(
  db: Db,
  endedAt: Instant,
): Promise<(PicturesRow & { project: string; builtAs: string | null }) | undefined> {
  return inTransaction(db, async (tx) => {
    const isLate = and(eq(pictures.state, 'taking'), lt(pictures.leaseUntil, databaseNow));
    const [row] = await tx
      .select()
      .from(pictures)
      .where(or(eq(pictures.state, 'wanted'), isLate))
      .orderBy(asc(pictures.wantedAt))
      .limit(1)
      .for('update', { skipLocked: true });
    if (row === undefined) return undefined;
    if (row.state === 'taking' && row.fence % mostTakings === 0) {
      const why = `${mostTakings} times a runner began to take them and did not end`;
      const end = { state: 'failed', why, endedAt } as const;
      await tx.update(pictures).set(end).where(eq(pictures.id, row.id));
      return undefined;
    }
    const fence = row.fence + 1;
    const leaseUntil = sql`date_add(now(3), interval ${takingMs * 1000} microsecond)`;
    await tx
      .update(pictures)
      .set({ state: 'taking', fence, leaseUntil })
      .where(eq(pictures.id, row.id));
    const [of] = await tx
      .select({ project: projects.name, builtAs: projects.builtAs })
      .from(projects)
      .where(eq(projects.id, row.projectId));
    return of === undefined ? undefined : { ...row, ...of, fence };
  });
}

/** Has pictures taken once more that could not be. */
export async function wantAgain(db: Db, { id }: PicturesRow): Promise<void> {
  await db
    .update(pictures)
    .set({ state: 'wanted', why: null })
    .where(and(eq(pictures.id, id), eq(pictures.state, 'failed')));
}

/** What is being taken, of this taking and no other. */
export async function beingTaken(
  db: Db,
  id: string,
  fence: number,
): Promise<PicturesRow | undefined> {
  const [row] = await db
    .select()
    .from(pictures)
    .where(and(eq(pictures.id, id), eq(pictures.fence, fence), eq(pictures.state, 'taking')));
  return row;
}

export async function endTaking(
  db: Db,
  { id, fence }: Pick<PicturesRow, 'id' | 'fence'>,
  end: {
    readonly state: 'taken' | 'failed';
    readonly why: string | null;
    readonly taken: readonly PageTaken[];
    readonly endedAt: Instant;
  },
): Promise<void> {
  await db
    .update(pictures)
    .set(end)
    .where(and(eq(pictures.id, id), eq(pictures.fence, fence), eq(pictures.state, 'taking')));
}

/** Forgets pictures that were wanted before an instant; returns which. */
export async function forgetWantedBefore(db: Db, before: Instant): Promise<readonly string[]> {
  const rows = await db
    .select({ id: pictures.id })
    .from(pictures)
    .where(lt(pictures.wantedAt, before))
    .limit(500);
  for (const { id } of rows) await db.delete(pictures).where(eq(pictures.id, id));
  return rows.map(({ id }) => id);
}
