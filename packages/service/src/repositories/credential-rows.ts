import type { Instant } from '@vaquero/core';
import { eq } from 'drizzle-orm';
import type { Db, Tx } from '../database/pool.ts';
import { people, repositoryCredentials } from '../database/tables.ts';
import type { Deps } from '../deps.ts';
import { openValue, sealValue } from '../variables/seal.ts';
import type { Credential } from './reach.ts';

/** What is shown of a credential: never its secret. */
export interface CredentialSeen {
  readonly user: string;
  readonly by: string;
  readonly setAt: Instant;
}

/** What a secret is sealed with beside the key: no other row's can be put in its place. */
function placeOf(repositoryId: string): string {
  return `repository/${repositoryId}`;
}

/** What a private repository is read with; null for one that anybody may read. */
export async function credentialOf(deps: Deps, repositoryId: string): Promise<Credential | null> {
  const [row] = await deps.db
    .select()
    .from(repositoryCredentials)
    .where(eq(repositoryCredentials.repositoryId, repositoryId));
  if (row === undefined) return null;
  const secret = openValue(deps.keys.sealing, placeOf(repositoryId), row.sealed);
  return { user: row.user, secret };
}

/** Who gave a repository its credential, and when; null where it has none. */
export async function credentialSeen(
  db: Db | Tx,
  repositoryId: string,
): Promise<CredentialSeen | null> {
  const [row] = await db
    .select({ credential: repositoryCredentials, by: people.shownAs })
    .from(repositoryCredentials)
    .leftJoin(people, eq(people.id, repositoryCredentials.setBy))
    .where(eq(repositoryCredentials.repositoryId, repositoryId));
  if (row === undefined) return null;
  const { user, setAt } = row.credential;
  return { user, by: row.by ?? 'somebody', setAt: setAt as Instant };
}

/** Seals a credential in place of the one before. */
export async function putCredential(
  deps: Deps,
  tx: Tx,
  repositoryId: string,
  { user, secret }: Credential,
  { by, at }: { readonly by: string; readonly at: Instant },
): Promise<void> {
  const sealed = sealValue(deps.keys.sealing, placeOf(repositoryId), secret);
  const now = { user, sealed, setBy: by, setAt: at };
  await tx
    .insert(repositoryCredentials)
    .values({ repositoryId, ...now })
    .onDuplicateKeyUpdate({ set: now });
}

/** Takes a credential away; false where there is none. */
export async function dropCredential(tx: Tx, repositoryId: string): Promise<boolean> {
  const [done] = await tx
    .delete(repositoryCredentials)
    .where(eq(repositoryCredentials.repositoryId, repositoryId));
  return done.affectedRows === 1;
}
