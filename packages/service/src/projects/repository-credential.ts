import { decide } from '../audit/record.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import { type Caller, requireAbility } from '../people/caller.ts';
import type { Doorbell } from '../refs/doorbell.ts';
import { refused } from '../refused.ts';
import {
  type CredentialSeen,
  credentialSeen,
  dropCredential,
  putCredential,
} from '../repositories/credential-rows.ts';
import type { Credential } from '../repositories/reach.ts';
import { lookAt } from '../repositories/repository-elsewhere.ts';
import { homeOf, type ProjectRow, repositoryById } from './project-rows.ts';

/**
 * Sets what a private repository is read with. It is tried first: what does not open it is not kept.
 * Refuses: not-allowed, no-credential-needed, token-needs-https, repository-*, address-not-allowed.
 */
export async function setCredential(
  deps: Deps,
  doorbell: Doorbell,
  project: ProjectRow,
  credential: Credential,
  caller: Caller,
): Promise<CredentialSeen> {
  const { id, kind, place } = await requireHome(deps, project, caller);
  if (kind !== 'http')
    return refused({ code: 'no-credential-needed', place: place || project.name });
  await lookAt(deps.config, { kind: 'http', url: place }, credential);
  const at = deps.clock();
  await inTransaction(deps.db, async (tx) => {
    await putCredential(deps, tx, id, credential, { by: caller.personId, at });
    decide(tx, {
      at,
      kind: 'repository.credential-set',
      project,
      doing: caller.doing,
      facts: { user: credential.user },
      after: { secret: deps.keys.keyed(credential.secret) },
    });
  });
  await doorbell.ringAndWait(id, { kind: 'person', doing: caller.doing });
  return (
    (await credentialSeen(deps.db, id)) ?? { user: credential.user, by: caller.shownAs, setAt: at }
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
