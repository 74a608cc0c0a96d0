import type { Digest } from '@vaquero/core';
import { and, asc, desc, eq, lt, ne, sql } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { attemptSteps, attempts, databaseNow } from '../database/tables.ts';

export type AttemptRow = typeof attempts.$inferSelect;

/** Notes which versions of programs an attempt finds. */
export async function setTools(
  db: Db,
  id: string,
  tools: Readonly<Record<string, string>>,
): Promise<void> {
  await db.update(attempts).set({ tools }).where(eq(attempts.id, id));
}

export async function latestAttempt(
  db: Db | Tx,
  buildId: string,
): Promise<Pick<AttemptRow, 'id' | 'fence' | 'state' | 'logBytes' | 'tools'> | undefined> {
  const [row] = await db
    .select({
      id: attempts.id,
      fence: attempts.fence,
      state: attempts.state,
      logBytes: attempts.logBytes,
      tools: attempts.tools,
    })
    .from(attempts)
    .where(eq(attempts.buildId, buildId))
    .orderBy(desc(attempts.fence))
    .limit(1);
  return row;
}

export async function stepsOf(
  db: Db | Tx,
  attemptId: string,
): Promise<readonly (typeof attemptSteps.$inferSelect)[]> {
  return db
    .select()
    .from(attemptSteps)
    .where(eq(attemptSteps.attemptId, attemptId))
    .orderBy(asc(attemptSteps.place));
}

/** How one step of an attempt stands, as it is written. */
export type StepRow = typeof attemptSteps.$inferInsert;

/** Writes how steps of an attempt stand, in one statement. What a step's beginning told stays when its end is told. */
export async function setSteps(db: Db | Tx, steps: readonly StepRow[]): Promise<void> {
  if (steps.length === 0) return;
  const { startedAt, logFrom } = attemptSteps;
  await db
    .insert(attemptSteps)
    .values([...steps])
    .onDuplicateKeyUpdate({
      set: {
        name: sql`values(name)`,
        says: sql`values(says)`,
        state: sql`values(state)`,
        endedAt: sql`values(ended_at)`,
        startedAt: sql`coalesce(values(started_at), ${startedAt})`,
        logFrom: sql`coalesce(values(log_from), ${logFrom})`,
        after: sql`values(after)`,
        tries: sql`values(tries)`,
        reused: sql`values(reused)`,
      },
    });
}

/** A running attempt by its credential, locked against its end when read inside a transaction. */
export async function runningAttempt(
  db: Db | Tx,
  id: string,
  credentialHash: Digest,
  lock: boolean,
): Promise<AttemptRow | undefined> {
  const query = db
    .select()
    .from(attempts)
    .where(
      and(
        eq(attempts.id, id),
        eq(attempts.credentialHash, credentialHash),
        eq(attempts.state, 'running'),
      ),
    );
  const [row] = lock ? await query.for('update') : await query;
  return row;
}

export async function endAttempt(
  tx: Tx,
  id: string,
  state: 'passed' | 'failed' | 'lost' | 'cancelled',
): Promise<boolean> {
  const [done] = await tx
    .update(attempts)
    .set({ state })
    .where(and(eq(attempts.id, id), eq(attempts.state, 'running')));
  return done.affectedRows === 1;
}

/** Prolongs a running attempt's lease by the database's clock; false when the attempt is over. */
export async function prolongLease(db: Db, id: string, leaseMs: number): Promise<boolean> {
  const [done] = await db
    .update(attempts)
    .set({ leaseUntil: sql`date_add(now(3), interval ${leaseMs * 1000} microsecond)` })
    .where(and(eq(attempts.id, id), eq(attempts.state, 'running')));
  return done.affectedRows === 1;
}

/** Running attempts whose lease has lapsed. */
export async function lapsedAttempts(db: Db): Promise<readonly AttemptRow[]> {
  return db
    .select()
    .from(attempts)
    .where(and(eq(attempts.state, 'running'), lt(attempts.leaseUntil, databaseNow)));
}

/** The ids of the attempts of a build that run. */
export async function runningAttempts(tx: Tx, buildId: string): Promise<readonly string[]> {
  const rows = await tx
    .select({ id: attempts.id })
    .from(attempts)
    .where(and(eq(attempts.buildId, buildId), eq(attempts.state, 'running')));
  return rows.map(({ id }) => id);
}

/** The attempts that another process of a runner, which is gone, had begun. */
export function attemptsOfOthers(db: Db, runnerId: string, instance: string) {
  return db
    .select()
    .from(attempts)
    .where(
      and(
        eq(attempts.runnerId, runnerId),
        ne(attempts.instance, instance),
        eq(attempts.state, 'running'),
      ),
    );
}

/** Writes an attempt down; its lease is counted by the database's clock. */
export async function insertAttempt(
  tx: Tx,
  leaseMs: number,
  row: Omit<typeof attempts.$inferInsert, 'leaseUntil'>,
): Promise<void> {
  await tx.insert(attempts).values({
    ...row,
    leaseUntil: sql`date_add(now(3), interval ${leaseMs * 1000} microsecond)`,
  });
}
