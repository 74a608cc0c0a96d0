import type { Instant } from '@vaquero/core';
import { eq } from 'drizzle-orm';
import type { Deps } from '../base/deps.ts';
import type { Db, Tx } from '../database/pool.ts';
import { people, repositoryCredentials } from '../database/tables.ts';
import { openValue, sealValue } from '../variables/seal.ts';
import type { Credential, Token } from './reach.ts';
import { fingerprintOf, type SshKey } from './ssh.ts';

/** What is shown of a credential: never its secret. */
export interface CredentialSeen {
  readonly kind: 'token' | 'key';
  readonly user: string;
  readonly by: string;
  readonly setAt: Instant;
  readonly publicKey: string | null;
  /** The fingerprint of the host's key. */
  readonly hostKey: string | null;
}

/** What is kept: a token with its name, or the private half of a key with what is shown of it. */
export type Kept =
  | ({ readonly kind: 'token' } & Token)
  | ({ readonly kind: 'key'; readonly user: string; readonly publicKey: string } & SshKey);

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
  return row.kind === 'key'
    ? { kind: 'key', privateKey: secret, hostKey: row.hostKey ?? '' }
    : { kind: 'token', user: row.user, secret };
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
  const { kind, user, setAt, publicKey, hostKey } = row.credential;
  return {
    kind,
    user,
    by: row.by ?? 'somebody',
    setAt: setAt as Instant,
    publicKey,
    hostKey: hostKey === null ? null : fingerprintOf(hostKey),
  };
}

/** Seals a credential in place of the one before. */
export async function putCredential(
  deps: Deps,
  tx: Tx,
  repositoryId: string,
  kept: Kept,
  { by, at }: { readonly by: string; readonly at: Instant },
): Promise<void> {
  const secret = kept.kind === 'key' ? kept.privateKey : kept.secret;
  const now = {
    kind: kept.kind,
    user: kept.user,
    sealed: sealValue(deps.keys.sealing, placeOf(repositoryId), secret),
    publicKey: kept.kind === 'key' ? kept.publicKey : null,
    hostKey: kept.kind === 'key' ? kept.hostKey : null,
    setBy: by,
    setAt: at,
  };
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
