import type { Digest } from '@vaquero/core';
import { and, eq } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { machines } from '../database/tables.ts';

/** The machine that a token belongs to. */
export async function machineByToken(
  db: Db,
  role: 'runner' | 'edge',
  tokenHash: Digest,
): Promise<{ id: string; name: string } | undefined> {
  const [row] = await db
    .select({ id: machines.id, name: machines.name })
    .from(machines)
    .where(and(eq(machines.role, role), eq(machines.tokenHash, tokenHash)));
  return row;
}

/** Makes a machine known by its token, or gives a known one a new token. */
export async function knowMachine(
  db: Db,
  machine: { id: string; role: 'runner' | 'edge'; name: string; tokenHash: Digest },
): Promise<void> {
  await db
    .insert(machines)
    .values(machine)
    .onDuplicateKeyUpdate({ set: { tokenHash: machine.tokenHash } });
}

/** Makes a machine known. Throws a duplicate where its name is taken. */
export async function insertMachine(
  tx: Tx,
  row: Required<Pick<typeof machines.$inferInsert, 'id' | 'role' | 'name' | 'tokenHash'>>,
): Promise<void> {
  await tx.insert(machines).values(row);
}
