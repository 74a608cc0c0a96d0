import { rm } from 'node:fs/promises';
import { type projectRoutes, readMap } from '@vaquero/contracts';
import { defaultMap, freeNamesNear, readProjectName } from '@vaquero/core';
import type { z } from 'zod';
import { decide } from '../audit/record.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import type { Deps } from '../deps.ts';
import type { Done, NoteDone } from '../http/keyed-calls.ts';
import { insertMap } from '../map/map-rows.ts';
import type { Caller } from '../people/caller.ts';
import type { Doorbell } from '../refs/doorbell.ts';
import { orRefuse, refused } from '../refused.ts';
import { publishTable } from '../releases/publish-table.ts';
import { directoryOf, makeBare } from '../repositories/bare-repository.ts';
import { type Kept, putCredential } from '../repositories/credential-rows.ts';
import { takeKey } from '../repositories/key-rows.ts';
import { lookAt } from '../repositories/repository-elsewhere.ts';
import { credentialIn } from './access-key.ts';
import {
  allProjects,
  branchesAmong,
  insertProject,
  lockProject,
  type ProjectRow,
  projectByName,
  type RepositoryRow,
  refsKnown,
  repositoryById,
} from './project-rows.ts';
import { readSource, requireBranch } from './read-source.ts';

type Wanted = z.output<typeof projectRoutes.makeProjectRoute.body> & { readonly caller: Caller };

/**
 * Makes a project with its repository and the environments of map version 1. What stands in the way of
 * reading the repository is said at once and nothing is kept; an empty repository is fine and waited for.
 * Refuses: name-invalid, name-taken, invalid-request, repository-*, branch-missing, token-needs-https,
 * path-not-allowed, not-found, project-ended.
 */
export async function makeProject(
  deps: Deps,
  doorbell: Doorbell,
  { caller, ...wanted }: Wanted,
  note: NoteDone,
): Promise<Done<string>> {
  const name = orRefuse(readProjectName(wanted.name));
  const { branch, folder } = readSource(wanted);
  const taken = new Set((await allProjects(deps.db)).map((project) => project.name));
  if (taken.has(name))
    return refused({ code: 'name-taken', name, free: freeNamesNear(name, taken) });
  const at = deps.clock();
  const id = deps.newId();
  const credential = await credentialIn(deps, wanted.repository);
  const { repository, isNew } = await repositoryFor(deps, wanted, credential, id);
  const text = defaultMap(name, branch);
  const map = orRefuse(readMap(text, 1, branch));
  const project: ProjectRow = {
    id,
    name,
    repositoryId: repository.id,
    folder,
    branch,
    mapVersion: map.version,
    lastBuild: 0,
    holding: null,
    madeAt: at,
    builtAs: id,
    endedAt: null,
  };
  const directory = directoryOf(deps.config.stateDirectory, repository.id);
  if (isNew) await makeBare(directory, branch);
  let done: Done<string>;
  try {
    done = await inTransaction(deps.db, async (tx) => {
      // Whose repository it is does not end while another project begins to be built from it.
      if (!isNew) await lockProject(tx, repository.homeId);
      await insertProject(
        tx,
        project,
        isNew ? repository : null,
        map.environments.flatMap((rule, place) =>
          rule.kind === 'each' ? [] : [{ id: deps.newId(), name: rule.name, place }],
        ),
      );
      const { personId } = caller;
      const { repository: source } = wanted;
      if (credential !== null)
        await putCredential(deps, tx, repository.id, credential, { by: personId, at });
      if (source.kind === 'ssh' && !(await takeKey(tx, source.key)))
        return refused({
          code: 'not-found',
          what: `key for ${repository.place}`,
          name: source.key,
        });
      await insertMap(tx, { projectId: project.id, version: map.version, text, personId, at });
      decide(tx, {
        at,
        kind: 'project.made',
        project,
        doing: caller.doing,
        facts: {
          repository: wanted.repository.kind,
          branch: project.branch,
          folder,
          map: map.version,
        },
      });
      return note(tx, name);
    });
  } catch (error) {
    if (isNew) await rm(directory, { recursive: true, force: true });
    if (isDuplicate(error))
      return refused({ code: 'name-taken', name, free: freeNamesNear(name, taken) });
    throw error;
  }
  // Its addresses answer from now on, with what they wait for.
  await deps.edges.confirmed(await publishTable(deps), 1_000);
  await doorbell.ringAndWait(repository.id, { kind: 'person', doing: caller.doing });
  return done;
}

/** The repository that a project is to be built of: a new one, or that of another project. */
async function repositoryFor(
  deps: Deps,
  { repository: source, branch }: Omit<Wanted, 'caller'>,
  credential: Kept | null,
  homeId: string,
): Promise<{ readonly repository: RepositoryRow; readonly isNew: boolean }> {
  if (source.kind === 'shared') {
    const shared = await projectByName(deps.db, source.project);
    if (shared === undefined)
      return refused({ code: 'not-found', what: 'project', name: source.project });
    const repository = await repositoryById(deps.db, shared.repositoryId);
    const refs = await refsKnown(deps.db, repository.id);
    requireBranch(branch, branchesAmong(refs));
    return { repository, isNew: false };
  }
  const elsewhere = source.kind === 'hosted' ? null : await lookAt(deps.config, source, credential);
  requireBranch(branch, elsewhere?.branches ?? []);
  const repository: RepositoryRow = {
    id: deps.newId(),
    kind: source.kind,
    place: elsewhere?.place ?? '',
    look: 0,
    lookedAt: null,
    trouble: null,
    lastPullRequest: 0,
    homeId,
  };
  return { repository, isNew: true };
}
