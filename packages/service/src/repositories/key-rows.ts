import type { Instant } from '@vaquero/core';
import { eq, lt } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import type { Db, Tx } from '../database/pool.ts';
import { repositoryKeys } from '../database/tables.ts';
import { openValue, sealValue } from '../variables/seal.ts';
import type { KeyPair } from './ssh.ts';

/** A key for SSH that was made and is not used yet. */
export interface WaitingKey extends KeyPair {
  readonly id: string;
  readonly place: string;
  readonly hostKeys: readonly string[];
}

/** One that nobody used for a day is forgotten. */
const waitsMs = 86_400_000;

const placeOf = (id: string): string => `repository-key/${id}`;

/** Keeps a key until it is used, sealed. Those that nobody used go. */
export async function insertKey(
  deps: Deps,
  { id, place, hostKeys, privateKey, publicKey }: WaitingKey,
  { by, at }: { readonly by: string; readonly at: Instant },
): Promise<void> {
  const sealed = sealValue(deps.keys.sealing, placeOf(id), privateKey);
  await deps.db
    .insert(repositoryKeys)
    .values({ id, place, publicKey, sealed, hostKeys, madeBy: by, madeAt: at });
  await deps.db.delete(repositoryKeys).where(lt(repositoryKeys.madeAt, at - waitsMs));
}

/** A key that waits to be used. */
export async function waitingKey(deps: Deps, id: string): Promise<WaitingKey | undefined> {
  const [row] = await deps.db.select().from(repositoryKeys).where(eq(repositoryKeys.id, id));
  if (row === undefined) return undefined;
  const { place, publicKey, hostKeys, sealed } = row;
  const privateKey = openValue(deps.keys.sealing, placeOf(id), sealed);
  return { id, place, publicKey, hostKeys, privateKey };
}

/** A key is used once. False where it was used meanwhile. */
export async function takeKey(tx: Db | Tx, id: string): Promise<boolean> {
  const [done] = await tx.delete(repositoryKeys).where(eq(repositoryKeys.id, id));
  return done.affectedRows === 1;
}
