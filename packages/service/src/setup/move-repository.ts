import { join } from 'node:path';
import type { projectRoutes } from '@vaquero/contracts';
import { readCommitId, refOfBranch } from '@vaquero/core';
import type { z } from 'zod';
import { lastSet } from '../audit/last-set-rows.ts';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { requireSeen } from '../base/require-seen.ts';
import type { Db } from '../database/pool.ts';
import { inTransaction } from '../database/transaction.ts';
import type { Caller } from '../people/caller.ts';
import {
  livingProjectsOf,
  lockRepository,
  type ProjectRow,
  refsKnown,
  repositoryById,
  setPlace,
} from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { broughtApart, holdsCommit, mostBytesApart } from '../repositories/brought-apart.ts';
import { dropCredential, type Kept, putCredential } from '../repositories/credential-rows.ts';
import { isFull } from '../repositories/fetch-apart.ts';
import { takeKey } from '../repositories/key-rows.ts';
import { shownPlace } from '../repositories/reach.ts';
import { type Elsewhere, lookAt, refuseBy } from '../repositories/repository-elsewhere.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { credentialIn } from './access-key.ts';
import { requireBranch } from './read-source.ts';

type Wish = z.output<typeof projectRoutes.moveRepositoryRoute.body>;

/**
 * Has a repository read from another address from now on, for every project that is built of it. It is tried first. What
 * was built stays what it is; a look that is under way at the old address writes nothing.
 * Refuses: repository-hosted, repository-another, branch-missing, changed-since, key-unknown, and as `lookAt`.
 */
export async function moveRepository(
  deps: Deps,
  doorbell: Doorbell,
  project: ProjectRow,
  { repository: source, reason, from, isAnother, caller }: Wish & { readonly caller: Caller },
): Promise<void> {
  const { id, kind } = await repositoryById(deps.db, project.repositoryId);
  if (kind === 'hosted') return refused({ code: 'repository-hosted', project: project.name });
  const credential = await credentialIn(deps, source);
  const there = await lookAt(deps.config, source, credential);
  const { place, branches } = there;
  for (const { branch } of await livingProjectsOf(deps.db, id)) requireBranch(branch, branches);
  const isSame = isAnother || (await holdsWhatIsKnown(deps, project, there, credential));
  if (!isSame) return refused(await another(deps, project, place));
  const at = deps.clock();
  await inTransaction(deps.db, async (tx) => {
    const before = await lockRepository(tx, id);
    const last = () => lastSet(deps.db, project.id, 'repository.moved');
    await requireSeen(from, 'address of the repository', before.place, last);
    if (source.kind === 'ssh' && !(await takeKey(tx, source.key)))
      return refused({ code: 'key-unknown', place });
    await setPlace(tx, before, { kind: source.kind, place });
    // What opened the old address goes to no other one.
    await dropCredential(tx, id);
    if (credential !== null)
      await putCredential(deps, tx, id, credential, { by: caller.personId, at });
    decide(tx, {
      at,
      kind: 'repository.moved',
      project,
      doing: caller.doing,
      why: reason,
      facts: { kind: source.kind, isAnother },
      before: { place: before.place },
      after: { place },
    });
  });
  await doorbell.ringAndWait(id, { kind: 'person', doing: caller.doing });
}

/**
 * Whether the commit that the project's branch stands at by now lies at another address, too; yes where none is known. Mostly
 * the branch stands at a commit there that is known here; if not, it is brought. Refuses as `refuseBy`.
 */
async function holdsWhatIsKnown(
  { config, db }: Deps,
  project: ProjectRow,
  { place, heads }: Elsewhere,
  credential: Kept | null,
): Promise<boolean> {
  const known = await headOf(db, project);
  if (known === undefined) return true;
  const { branch } = project;
  const head = readCommitId(heads.get(branch) ?? '');
  const own = directoryOf(config.stateDirectory, project.repositoryId);
  if (head !== undefined && (await holdsCommit(own, head))) return true;
  const ref = `refs/heads/${branch}`;
  const wanted = { place, credential, branch, what: [], refs: [`+${ref}:${ref}`] };
  return broughtApart(config, wanted, async (directory, end) => {
    if (end.ok) return holdsCommit(directory, known);
    if (
      end.stderr === 'timed out' ||
      (await isFull(join(directory, 'objects/pack'), mostBytesApart))
    )
      return refused({
        code: 'repository-unreachable',
        place: shownPlace(place),
        why: `${branch} cannot be brought there within a minute and 512 MiB, to tell whether it is the same repository`,
      });
    return refuseBy(place, end.stderr);
  });
}

async function headOf(db: Db, { repositoryId, branch }: ProjectRow) {
  const ref = refOfBranch(branch);
  return ref === undefined ? undefined : (await refsKnown(db, repositoryId)).get(ref);
}

async function another(deps: Deps, project: ProjectRow, place: string) {
  const commit = (await headOf(deps.db, project)) ?? '';
  return { code: 'repository-another', place, branch: project.branch, commit } as const;
}
