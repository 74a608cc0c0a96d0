import type { Tx } from '../database/pool.ts';
import { provenances } from '../database/tables.ts';

/** A signed statement of where an artifact came from, as it is kept with the build. */
export type ProvenanceRow = typeof provenances.$inferInsert;

/** Keeps a statement with its build. */
export async function keepProvenance(tx: Tx, row: ProvenanceRow): Promise<void> {
  const { artifact, envelope } = row;
  await tx.insert(provenances).values(row).onDuplicateKeyUpdate({ set: { artifact, envelope } });
}
