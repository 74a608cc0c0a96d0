import {
  forecastQueue,
  nextInQueue,
  type QueuePlace,
  type RunnerNow,
  suits,
  usualTime,
  type Waiting,
} from '@vaquero/core';
import { and, asc, count, desc, eq, isNotNull, sql } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import type { InTurn, Nudge } from '../base/waiting.ts';
import type { Db } from '../database/pool.ts';
import { attempts, builds, databaseNow, machines } from '../database/tables.ts';
import { usualTimes } from './build-rows.ts';

declare module '../base/deps.ts' {
  interface Deps {
    /** Wakes runners that wait for a build. */
    readonly queueNudge: Nudge;
    /** Lets runners that woke together choose one after another: each would choose the same build. */
    readonly claimTurn: InTurn;
  }
}

/** How many builds of one project run at once. */
const mostOfOneProject = 4;
/** A runner that is heard of within this time takes builds. */
const heardMs = 30_000;

interface Row extends Waiting {
  readonly ref: string;
}

/** The builds that wait, in the order of queueing. */
async function waitingBuilds(db: Db): Promise<readonly Row[]> {
  const rows = await db
    .select({
      id: builds.id,
      project: builds.projectId,
      priority: builds.priority,
      needs: builds.needs,
      ref: builds.ref,
    })
    .from(builds)
    .where(eq(builds.state, 'queued'))
    .orderBy(asc(builds.id));
  return rows.map((row) => ({ ...row, needs: row.needs ?? [] }));
}

/**
 * Of the builds that wait, each that no other one of its kind (project, priority, labels) waits longer than: the one to
 * start next is among them, however many wait behind it.
 */
async function firstOfEachKind(db: Db): Promise<readonly Waiting[]> {
  const rows = await db
    .select({
      id: sql<string>`min(${builds.id})`,
      project: builds.projectId,
      priority: builds.priority,
      needs: builds.needs,
    })
    .from(builds)
    .where(eq(builds.state, 'queued'))
    .groupBy(builds.projectId, builds.priority, builds.needs)
    .orderBy(sql`min(${builds.id})`);
  return rows.map((row) => ({ ...row, needs: row.needs ?? [] }));
}

/** The build that is to start next on a runner of some labels, fair between projects; null when none may. */
export async function nextWaiting(db: Db, labels: readonly string[]): Promise<Waiting | null> {
  const [waiting, running] = await Promise.all([
    firstOfEachKind(db),
    db
      .select({ project: builds.projectId, total: count() })
      .from(builds)
      .where(eq(builds.state, 'running'))
      .groupBy(builds.projectId),
  ]);
  const may = waiting.filter((one) => suits(one.needs, labels));
  const shares = {
    running: new Map(running.map((row) => [row.project, row.total])),
    lastBegan: await lastBeginnings(db, may),
  };
  return nextInQueue(may, shares, mostOfOneProject);
}

/** When a build of each waiting project last began; one project alone has nobody to take turns with. */
async function lastBeginnings(
  db: Db,
  waiting: readonly Waiting[],
): Promise<ReadonlyMap<string, number>> {
  const different = [...new Set(waiting.map((one) => one.project))];
  if (different.length < 2) return new Map();
  const rows = await Promise.all(
    different.map((project) =>
      db
        .select({ at: builds.startedAt })
        .from(builds)
        .where(and(eq(builds.projectId, project), isNotNull(builds.startedAt)))
        .orderBy(desc(builds.number))
        .limit(1),
    ),
  );
  return new Map(different.map((project, place) => [project, rows[place]?.[0]?.at ?? 0]));
}

/** The runners that take builds now. */
async function takingRunners(db: Db): Promise<readonly RunnerNow[]> {
  const rows = await db
    .select({ id: machines.id, slots: machines.slots, labels: machines.labels })
    .from(machines)
    .where(
      and(
        eq(machines.role, 'runner'),
        eq(machines.draining, false),
        sql`${machines.beatAt} > date_sub(${databaseNow}, interval ${heardMs * 1000} microsecond)`,
      ),
    );
  return rows.map(({ labels, ...row }) => ({ ...row, labels: labels ?? [] }));
}

/** Where a waiting build stands and when it will begin by the usual times; null when it waits no more. */
export async function placeInQueue(deps: Deps, id: string): Promise<QueuePlace | null> {
  const { db } = deps;
  const [waiting, runners, running] = await Promise.all([
    waitingBuilds(db),
    takingRunners(db),
    db
      .select({
        project: builds.projectId,
        ref: builds.ref,
        startedAt: builds.startedAt,
        runner: attempts.runnerId,
      })
      .from(builds)
      .innerJoin(attempts, and(eq(attempts.buildId, builds.id), eq(attempts.state, 'running')))
      .where(eq(builds.state, 'running')),
  ]);
  const usual = await usualByRef(db, [...waiting, ...running]);
  const now = deps.clock();
  return (
    forecastQueue({
      waiting: waiting.map((one) => ({ ...one, lastsMs: usual(one) })),
      running: running.map((one) => {
        const lasts = usual(one);
        const passed = now - (one.startedAt ?? now);
        return {
          project: one.project,
          runner: one.runner,
          leftMs: lasts === null ? null : Math.max(0, lasts - passed),
        };
      }),
      runners,
      lastBegan: await lastBeginnings(db, waiting),
      mostOfOneProject,
    }).get(id) ?? null
  );
}

interface OfRef {
  readonly project: string;
  readonly ref: string;
}

/** The middle time of builds of some refs, each asked for once. */
async function usualByRef(db: Db, all: readonly OfRef[]): Promise<(one: OfRef) => number | null> {
  const keyOf = ({ project, ref }: OfRef): string => `${project} ${ref}`;
  const different = new Map(all.map((one) => [keyOf(one), one]));
  const known = new Map(
    await Promise.all(
      [...different].map(async ([key, { project, ref }]) => {
        const usual = usualTime(await usualTimes(db, project, ref));
        return [key, usual?.medianMs ?? null] as const;
      }),
    ),
  );
  return (one) => known.get(keyOf(one)) ?? null;
}
