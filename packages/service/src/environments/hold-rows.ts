import type { Instant } from '@vaquero/core';
import { and, asc, eq, gte, isNull, or } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Db, Tx } from '../database/pool.ts';
import { holds, people } from '../database/tables.ts';
import { onCommit } from '../database/transaction.ts';

/** A hold with the names of those who set and lifted it. */
export interface HoldView {
  readonly id: string;
  readonly by: string;
  readonly since: number;
  readonly reason: string;
  readonly liftedAt: number | null;
  readonly liftedBy: string | null;
}

/** The hold that stands on an environment. */
export async function standingHold(db: Db | Tx, environmentId: string): Promise<HoldView | null> {
  const [row] = await selectHolds(db).where(
    and(eq(holds.environmentId, environmentId), eq(holds.standing, true)),
  );
  return row === undefined ? null : readHold(row);
}

/** The holds that stood at or after an instant, oldest first. */
export async function holdsSince(
  db: Db,
  environmentId: string,
  since: Instant,
): Promise<readonly HoldView[]> {
  const rows = await selectHolds(db)
    .where(
      and(
        eq(holds.environmentId, environmentId),
        or(isNull(holds.liftedAt), gte(holds.liftedAt, since)),
      ),
    )
    .orderBy(asc(holds.since));
  return rows.map(readHold);
}

function selectHolds(db: Db | Tx) {
  const lifters = alias(people, 'lifters');
  return db
    .select({ hold: holds, by: people.shownAs, liftedBy: lifters.shownAs })
    .from(holds)
    .leftJoin(people, eq(people.id, holds.personId))
    .leftJoin(lifters, eq(lifters.id, holds.liftedBy))
    .$dynamic();
}

function readHold(row: {
  hold: typeof holds.$inferSelect;
  by: string | null;
  liftedBy: string | null;
}): HoldView {
  return {
    id: row.hold.id,
    by: row.by ?? 'Vaquero',
    since: row.hold.since,
    reason: row.hold.reason,
    liftedAt: row.hold.liftedAt,
    liftedBy: row.liftedBy,
  };
}

/** Holds an environment when its transaction commits; a hold that stands already is given the newer reason. */
export function holdOnCommit(
  tx: Tx,
  hold: {
    id: string;
    environmentId: string;
    deployId: string;
    personId: string;
    reason: string;
    since: Instant;
  },
): void {
  onCommit(
    tx,
    tx
      .insert(holds)
      .values({ ...hold, standing: true })
      .onDuplicateKeyUpdate({
        set: { deployId: hold.deployId, personId: hold.personId, reason: hold.reason },
      }),
  );
}

export async function liftHoldRow(
  tx: Tx,
  environmentId: string,
  personId: string,
  at: Instant,
): Promise<boolean> {
  const [done] = await tx
    .update(holds)
    .set({ standing: null, liftedAt: at, liftedBy: personId })
    .where(and(eq(holds.environmentId, environmentId), eq(holds.standing, true)));
  return done.affectedRows === 1;
}
