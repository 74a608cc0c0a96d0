import type { credentialRoutes } from '@vaquero/contracts';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { inTransaction } from '../database/transaction.ts';
import { type Caller, requireAbility } from '../people/caller.ts';
import { homeOf, type ProjectRow, repositoryById } from '../projects/project-rows.ts';
import {
  type CredentialSeen,
  credentialSeen,
  dropCredential,
  type Kept,
  putCredential,
} from '../repositories/credential-rows.ts';
import { takeKey } from '../repositories/key-rows.ts';
import type { Token } from '../repositories/reach.ts';
import { lookAt } from '../repositories/repository-elsewhere.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { fingerprintOf } from '../repositories/ssh.ts';
import { keyConfirmed, makeKey } from './access-key.ts';

/**
 * Sets what a private repository is read with. It is tried first: what does not open it is not kept.
 * Refuses: not-allowed, no-credential-needed, token-needs-https, repository-*, address-not-allowed.
 */
export async function setCredential(
  deps: Deps,
  doorbell: Doorbell,
  project: ProjectRow,
  token: Token,
  caller: Caller,
): Promise<CredentialSeen> {
  const { kind, place } = await requireHome(deps, project, caller);
  if (kind === 'ssh') return refused({ code: 'credential-unfit', place, wants: 'key' });
  if (kind !== 'http')
    return refused({ code: 'no-credential-needed', place: place || project.name });
  return await tryAndKeep(deps, doorbell, project, { kind: 'token', ...token }, caller);
}

/**
 * Makes another key for a repository that is read over SSH: the one in use stays until the new one is set.
 * Refuses: not-allowed, credential-unfit, no-credential-needed, repository-unreachable, address-not-allowed.
 */
export async function makeProjectKey(
  deps: Deps,
  project: ProjectRow,
  caller: Caller,
): Promise<credentialRoutes.KeyMade> {
  const { kind, place } = await requireHome(deps, project, caller);
  if (kind === 'http') return refused({ code: 'credential-unfit', place, wants: 'token' });
  if (kind !== 'ssh')
    return refused({ code: 'no-credential-needed', place: place || project.name });
  return await makeKey(deps, place, caller.personId);
}

/**
 * Sets a key that was made for this repository, with the host's key that was confirmed. It is tried first.
 * Refuses: not-allowed, key-unknown, credential-unfit, host-key-unconfirmed, host-key-changed, repository-*, address-not-allowed.
 */
export async function setKey(
  deps: Deps,
  doorbell: Doorbell,
  project: ProjectRow,
  confirmed: { readonly key: string; readonly hostKey: string },
  caller: Caller,
): Promise<CredentialSeen> {
  const { place } = await requireHome(deps, project, caller);
  const kept = await keyConfirmed(deps, place, confirmed);
  return await tryAndKeep(deps, doorbell, project, kept, caller, confirmed.key);
}

async function tryAndKeep(
  deps: Deps,
  doorbell: Doorbell,
  project: ProjectRow,
  kept: Kept,
  caller: Caller,
  key: string | null = null,
): Promise<CredentialSeen> {
  const { id, place } = await repositoryById(deps.db, project.repositoryId);
  await lookAt(deps.config, { kind: kept.kind === 'key' ? 'ssh' : 'http', url: place }, kept);
  const at = deps.clock();
  await inTransaction(deps.db, async (tx) => {
    if (key !== null && !(await takeKey(tx, key))) return refused({ code: 'key-unknown', place });
    await putCredential(deps, tx, id, kept, { by: caller.personId, at });
    decide(tx, {
      at,
      kind: 'repository.credential-set',
      project,
      doing: caller.doing,
      facts: { user: kept.user },
      after:
        kept.kind === 'key'
          ? { key: kept.publicKey, hostKey: fingerprintOf(kept.hostKey) }
          : { secret: deps.keys.keyed(kept.secret) },
    });
  });
  await doorbell.ringAndWait(id, { kind: 'person', doing: caller.doing });
  return (
    (await credentialSeen(deps.db, id)) ??
    refused({ code: 'not-found', what: 'credential of', name: project.name })
  );
}

/** Takes back what a private repository is read with. Refuses: not-allowed, not-found. */
export async function takeBackCredential(
  deps: Deps,
  project: ProjectRow,
  caller: Caller,
): Promise<void> {
  const { id } = await requireHome(deps, project, caller);
  await inTransaction(deps.db, async (tx) => {
    if (!(await dropCredential(tx, id)))
      return refused({ code: 'not-found', what: 'credential of', name: project.name });
    decide(tx, {
      at: deps.clock(),
      kind: 'repository.credential-dropped',
      project,
      doing: caller.doing,
      facts: {},
    });
  });
}

/** The repository of a project; how it is read is for those who maintain the project that it was made with. */
async function requireHome(deps: Deps, project: ProjectRow, caller: Caller) {
  requireAbility(caller, 'maintain', await homeOf(deps.db, project));
  return repositoryById(deps.db, project.repositoryId);
}
