import type { Figures } from '@vaquero/core';
import { and, asc, desc, eq, gte, inArray, lt, sql } from 'drizzle-orm';
import { sha256 } from '../base/sha256.ts';
import type { Db, Tx } from '../database/pool.ts';
import { missedPaths, type Span, visits } from '../database/tables.ts';

const minuteMs = 60_000;
const hourMs = 3_600_000;
const dayMs = 86_400_000;

/** How long a span is, and how long its figures are kept: minutes for a day, hours for a month, days for ever. */
const kept: Readonly<Record<Span, { readonly ms: number; readonly keptMs: number | null }>> = {
  minute: { ms: minuteMs, keptMs: dayMs },
  hour: { ms: hourMs, keptMs: 31 * dayMs },
  day: { ms: dayMs, keptMs: null },
};

/** Figures of one deploy in one minute. */
export interface MinuteFigures extends Figures {
  readonly environmentId: string;
  readonly deploy: number;
  /** The beginning of the minute. */
  readonly from: number;
}

/** Adds figures to those of their minute, hour and day. */
export async function addFigures(tx: Tx, rows: readonly MinuteFigures[]): Promise<void> {
  if (rows.length === 0) return;
  const all = Object.entries(kept).flatMap(([span, { ms }]) =>
    rows.map((row) => ({ ...row, span: span as Span, from: Math.floor(row.from / ms) * ms })),
  );
  const plus = (column: keyof Figures) => sql`${visits[column]} + values(${visits[column]})`;
  await tx
    .insert(visits)
    .values(all)
    .onDuplicateKeyUpdate({
      set: {
        requests: plus('requests'),
        bytes: plus('bytes'),
        found: plus('found'),
        redirected: plus('redirected'),
        missed: plus('missed'),
        failed: plus('failed'),
        slow: plus('slow'),
      },
    });
}

/** A path that was not found. */
export interface Miss {
  readonly path: string;
  readonly times: number;
}

/** So many paths of a deploy are kept: a scan that asks for thousands would push out what people ask for. */
const mostPaths = 500;

/** Adds paths that a deploy did not find. Those that are not known yet only while there is room. */
export async function addMisses(
  tx: Tx,
  environmentId: string,
  deploy: number,
  misses: readonly Miss[],
  at: number,
): Promise<void> {
  if (misses.length === 0) return;
  const ofDeploy = and(
    eq(missedPaths.environmentId, environmentId),
    eq(missedPaths.deploy, deploy),
  );
  const [row] = await tx.select({ count: sql<number>`count(*)` }).from(missedPaths).where(ofDeploy);
  const room = mostPaths - Number(row?.count ?? 0);
  const keyed = misses.map((miss) => ({ ...miss, pathKey: sha256(miss.path) }));
  const known = new Set(
    (
      await tx
        .select({ pathKey: missedPaths.pathKey })
        .from(missedPaths)
        .where(
          and(
            ofDeploy,
            inArray(
              missedPaths.pathKey,
              keyed.map(({ pathKey }) => pathKey),
            ),
          ),
        )
    ).map(({ pathKey }) => pathKey),
  );
  const fresh = keyed.filter(({ pathKey }) => !known.has(pathKey)).slice(0, Math.max(0, room));
  const rows = [...keyed.filter(({ pathKey }) => known.has(pathKey)), ...fresh].map((miss) => ({
    ...miss,
    environmentId,
    deploy,
    lastAt: at,
  }));
  if (rows.length === 0) return;
  await tx
    .insert(missedPaths)
    .values(rows)
    .onDuplicateKeyUpdate({
      set: { times: sql`${missedPaths.times} + values(${missedPaths.times})`, lastAt: at },
    });
}

const totals = {
  requests: sql<number>`coalesce(sum(${visits.requests}), 0)`.mapWith(Number),
  bytes: sql<number>`coalesce(sum(${visits.bytes}), 0)`.mapWith(Number),
  found: sql<number>`coalesce(sum(${visits.found}), 0)`.mapWith(Number),
  redirected: sql<number>`coalesce(sum(${visits.redirected}), 0)`.mapWith(Number),
  missed: sql<number>`coalesce(sum(${visits.missed}), 0)`.mapWith(Number),
  failed: sql<number>`coalesce(sum(${visits.failed}), 0)`.mapWith(Number),
  slow: sql<number>`coalesce(sum(${visits.slow}), 0)`.mapWith(Number),
};

/** All that was asked of a deploy. */
export async function figuresOf(db: Db, environmentId: string, deploy: number): Promise<Figures> {
  const [row] = await db
    .select(totals)
    .from(visits)
    .where(
      and(
        eq(visits.environmentId, environmentId),
        eq(visits.span, 'day'),
        eq(visits.deploy, deploy),
      ),
    );
  return row ?? { requests: 0, bytes: 0, found: 0, redirected: 0, missed: 0, failed: 0, slow: 0 };
}

/** Requests of one minute of an environment, and how many of them were missed or failed. */
export interface Minute {
  readonly environmentId: string;
  readonly from: number;
  readonly requests: number;
  readonly bad: number;
}

/** Minutes of environments since an instant, the oldest first; those without a request are left out. */
export async function minutesSince(
  db: Db,
  environmentIds: readonly string[],
  since: number,
): Promise<readonly Minute[]> {
  if (environmentIds.length === 0) return [];
  return db
    .select({
      environmentId: visits.environmentId,
      from: visits.from,
      requests: totals.requests,
      bad: sql<number>`sum(${visits.missed} + ${visits.failed})`.mapWith(Number),
    })
    .from(visits)
    .where(
      and(
        inArray(visits.environmentId, [...environmentIds]),
        eq(visits.span, 'minute'),
        gte(visits.from, since),
      ),
    )
    .groupBy(visits.environmentId, visits.from)
    .orderBy(asc(visits.from));
}

/** The paths that a deploy did not find, the most asked for first. */
export async function missesOf(
  db: Db,
  environmentId: string,
  deploy: number,
  most: number,
): Promise<readonly (Miss & { readonly lastAt: number })[]> {
  return db
    .select({ path: missedPaths.path, times: missedPaths.times, lastAt: missedPaths.lastAt })
    .from(missedPaths)
    .where(and(eq(missedPaths.environmentId, environmentId), eq(missedPaths.deploy, deploy)))
    .orderBy(desc(missedPaths.times), asc(missedPaths.path))
    .limit(most);
}

/** Removes figures that are older than their span is kept. */
export async function sweepFigures(db: Db, now: number): Promise<void> {
  for (const [span, { keptMs }] of Object.entries(kept))
    if (keptMs !== null)
      await db
        .delete(visits)
        .where(and(eq(visits.span, span as Span), lt(visits.from, now - keptMs)));
}
