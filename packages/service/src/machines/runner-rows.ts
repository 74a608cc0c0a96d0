import { and, asc, count, eq, sql } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { attempts, databaseNow, machines } from '../database/tables.ts';

/** A runner as the operator sees it. */
export interface RunnerRow {
  readonly id: string;
  readonly name: string;
  readonly slots: number;
  readonly labels: readonly string[];
  readonly draining: boolean;
  readonly building: number;
  /** Seconds since it was last heard of; null when it never was. */
  readonly silentS: number | null;
}

export async function runnersOf(db: Db | Tx): Promise<readonly RunnerRow[]> {
  const [rows, busy] = await Promise.all([
    db
      .select({
        id: machines.id,
        name: machines.name,
        slots: machines.slots,
        labels: machines.labels,
        draining: machines.draining,
        silentS: sql<number | null>`timestampdiff(second, ${machines.beatAt}, ${databaseNow})`,
      })
      .from(machines)
      .where(eq(machines.role, 'runner'))
      .orderBy(asc(machines.name)),
    db
      .select({ runner: attempts.runnerId, total: count() })
      .from(attempts)
      .where(eq(attempts.state, 'running'))
      .groupBy(attempts.runnerId),
  ]);
  const counts = new Map(busy.map((row) => [row.runner, row.total]));
  return rows.map((row) => ({
    ...row,
    labels: row.labels ?? [],
    building: counts.get(row.id) ?? 0,
    silentS: row.silentS === null ? null : Math.max(0, Number(row.silentS)),
  }));
}

export async function runnerByName(db: Db | Tx, name: string): Promise<RunnerRow | undefined> {
  return (await runnersOf(db)).find((runner) => runner.name === name);
}

/** Notes a runner that asks for builds: what it says of itself, and that it was heard of. */
export async function noteRunner(
  db: Db,
  id: string,
  said: { readonly instance: string; readonly slots: number; readonly labels: readonly string[] },
): Promise<void> {
  await db
    .update(machines)
    .set({ ...said, beatAt: databaseNow })
    .where(eq(machines.id, id));
}

/** A runner that builds in all its slots asks for nothing, and is heard of by the beats of its attempts. */
export async function heardOfRunner(db: Db, id: string): Promise<void> {
  await db.update(machines).set({ beatAt: databaseNow }).where(eq(machines.id, id));
}

export async function isDraining(db: Db, id: string): Promise<boolean> {
  const [row] = await db
    .select({ draining: machines.draining })
    .from(machines)
    .where(eq(machines.id, id));
  return row?.draining ?? true;
}

export async function setDraining(tx: Tx, id: string, draining: boolean): Promise<void> {
  await tx.update(machines).set({ draining }).where(eq(machines.id, id));
}

export async function dropRunner(tx: Tx, id: string): Promise<void> {
  await tx.delete(machines).where(and(eq(machines.id, id), eq(machines.role, 'runner')));
}
