import { and, eq, gt, sql } from 'drizzle-orm';
import type { Logger } from 'pino';
import type { Db, Tx } from './pool.ts';
import { databaseNow, leases } from './tables.ts';

/** How long a lease lives without being renewed: after this another process takes over from a dead one. */
export const leaseMs = 10_000;

/** What this process alone may do for a while; the fence tells its time from that of any other holder. */
export interface Lease {
  readonly name: string;
  readonly holder: string;
  readonly fence: number;
}

/** A lease is another's by now: whoever has it works from another state. */
export class LeaseLost extends Error {
  override readonly name = 'LeaseLost';
}

/** Takes a lease that is free or lapsed, or renews one's own; null while another process holds it. The database's clock counts. */
export async function takeLease(
  db: Db,
  name: string,
  holder: string,
  forMs = leaseMs,
): Promise<Lease | null> {
  const until = sql<Date>`date_add(now(3), interval ${forMs * 1000} microsecond)`;
  const isFree = sql`${leases.until} < now(3)`;
  // Assigned in the order of the columns: until when it holds is asked of the new holder.
  await db
    .insert(leases)
    .values({ name, holder, fence: 1, until })
    .onDuplicateKeyUpdate({
      set: {
        holder: sql`if(${isFree}, values(holder), ${leases.holder})`,
        fence: sql`${leases.fence} + (${isFree})`,
        until: sql`if(${leases.holder} = values(holder), values(until), ${leases.until})`,
      },
    });
  const [row] = await db.select().from(leases).where(eq(leases.name, name));
  return row?.holder === holder ? { name, holder, fence: row.fence } : null;
}

/** Makes sure, inside a transaction, that a lease still holds: none can be taken before it ends. Throws LeaseLost. */
export async function requireLease(tx: Tx, { name, holder, fence }: Lease): Promise<void> {
  const [row] = await tx
    .select({ fence: leases.fence })
    .from(leases)
    .where(
      and(
        eq(leases.name, name),
        eq(leases.holder, holder),
        eq(leases.fence, fence),
        gt(leases.until, databaseNow),
      ),
    )
    .for('update');
  if (row === undefined) throw new LeaseLost(`another process holds the lease of ${name}`);
}

/** Gives back all that a process holds, so that others need not wait for it to lapse. */
export async function giveBackLeases(db: Db, holder: string): Promise<void> {
  await db
    .update(leases)
    .set({ until: sql`date_sub(now(3), interval 1 second)` })
    .where(eq(leases.holder, holder));
}

/**
 * Makes a turn of a loop one that only one process of an installation takes: where another holds the lease it does
 * nothing. While a turn lasts the lease is renewed.
 */
export function onlyOne(
  { db, log, instance }: { readonly db: Db; readonly log: Logger; readonly instance: string },
  name: string,
  turn: (lease: Lease) => Promise<void>,
): () => Promise<void> {
  return async () => {
    const lease = await takeLease(db, name, instance);
    if (lease === null) return;
    const renewing = setInterval(() => {
      takeLease(db, name, instance).catch((err: unknown) =>
        log.warn({ err, lease: name }, 'a lease could not be renewed'),
      );
    }, leaseMs / 3);
    await turn(lease).finally(() => clearInterval(renewing));
  };
}
