import { and, eq, sql } from 'drizzle-orm';
import { madeOnce } from '../database/made-once.ts';
import type { Db, Tx } from '../database/pool.ts';
import { databaseNow, machines } from '../database/tables.ts';

/** An edge is fresh while its last heartbeat is younger than this. */
const freshMs = 6_000;

export interface EdgeRow {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  /** The forms of manifests that it reads. */
  readonly formats: readonly number[];
  readonly fresh: boolean;
  /** Seconds since it was last heard of; null when it never was. */
  readonly silentS: number | null;
}

export async function edgesOf(db: Db | Tx): Promise<readonly EdgeRow[]> {
  const rows = await allEdges(db).execute();
  return rows.map((row) => ({
    ...row,
    formats: row.formats.split(',').map(Number),
    fresh: Number(row.fresh ?? 0) === 1,
    silentS: row.silentS === null ? null : Math.max(0, Number(row.silentS)),
  }));
}

const allEdges = madeOnce((db) =>
  db
    .select({
      id: machines.id,
      name: machines.name,
      revision: machines.revision,
      formats: machines.formats,
      fresh: sql<
        number | null
      >`${machines.beatAt} > date_sub(now(3), interval ${freshMs * 1000} microsecond)`,
      silentS: sql<number | null>`timestampdiff(second, ${machines.beatAt}, ${databaseNow})`,
    })
    .from(machines)
    .where(eq(machines.role, 'edge'))
    .prepare(),
);

export async function freshEdges(db: Db): Promise<readonly EdgeRow[]> {
  return (await edgesOf(db)).filter((edge) => edge.fresh);
}

export async function edgeNames(db: Db): Promise<readonly string[]> {
  const names = (await edgesOf(db)).map((edge) => edge.name);
  return names.length === 0 ? ['no edge is known'] : names;
}

export async function dropEdge(tx: Tx, id: string): Promise<void> {
  await tx.delete(machines).where(and(eq(machines.id, id), eq(machines.role, 'edge')));
}

/** What an edge says of itself when its stream of orders begins. */
export async function noteEdge(
  db: Db,
  id: string,
  said: { readonly instance: string; readonly revision: number; readonly formats: string },
): Promise<void> {
  const [row] = await db
    .select({ instance: machines.instance })
    .from(machines)
    .where(eq(machines.id, id));
  // Another instance counts its figures from the beginning.
  const figures = row?.instance === said.instance ? {} : { figures: 0 };
  await db
    .update(machines)
    .set({ ...said, ...figures, beatAt: sql`now(3)` })
    .where(eq(machines.id, id));
}

/** Locks an edge's row: which instance of it counts, and the newest of its figures that were taken. */
export async function lockFigures(
  tx: Tx,
  id: string,
): Promise<{ readonly instance: string | null; readonly figures: number } | undefined> {
  const [row] = await tx
    .select({ instance: machines.instance, figures: machines.figures })
    .from(machines)
    .where(eq(machines.id, id))
    .for('update');
  return row;
}

export async function noteFigures(tx: Tx, id: string, figures: number): Promise<void> {
  await tx.update(machines).set({ figures }).where(eq(machines.id, id));
}

/** A heartbeat, with the revision that an edge has confirmed. */
export async function noteBeat(
  db: Db,
  id: string,
  instance: string,
  revision: number | null,
): Promise<void> {
  await db
    .update(machines)
    .set({ instance, beatAt: sql`now(3)`, ...(revision === null ? {} : { revision }) })
    .where(eq(machines.id, id));
}
