import { rm } from 'node:fs/promises';
import { type projectRoutes, readNewMap, readRecipe } from '@vaquero/contracts';
import {
  type CommitId,
  defaultMap,
  freeNamesNear,
  type Instant,
  type RefName,
  readProjectName,
  recipeFileName,
  refOfBranch,
} from '@vaquero/core';
import type { z } from 'zod';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { orRefuse, refused, refuseField } from '../base/refused.ts';
import type { Tx } from '../database/pool.ts';
import { inTransaction, isDuplicate } from '../database/transaction.ts';
import { insertNamed } from '../environments/environment-rows.ts';
import type { Done, NoteDone } from '../idempotency/kept-call-rows.ts';
import { insertMap } from '../map/map-rows.ts';
import type { Caller } from '../people/caller.ts';
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
  setRef,
} from '../projects/project-rows.ts';
import { insertAccepted } from '../recipes/recipe-rows.ts';
import { directoryOf, makeBare, refsOf } from '../repositories/bare-repository.ts';
import { type Kept, putCredential } from '../repositories/credential-rows.ts';
import { takeKey } from '../repositories/key-rows.ts';
import { lookAt, mirror } from '../repositories/repository-elsewhere.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { publishTable } from '../routing/publish-table.ts';
import { credentialIn } from './access-key.ts';
import { readSource, requireBranch } from './read-source.ts';

type Wanted = z.output<typeof projectRoutes.makeProjectRoute.body> & { readonly caller: Caller };

/**
 * Makes a project with its repository and the environments of map version 1. What stands in the way of
 * reading the repository is said at once and nothing is kept; an empty repository is fine and waited for.
 * Refuses: name-invalid, name-taken, map-invalid, recipe-invalid, invalid-request, repository-*, branch-missing, token-needs-https,
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
  const recipe =
    wanted.recipe === null ? null : orRefuse(readRecipe(wanted.recipe, recipeFileName));
  requireBegin(wanted);
  const map = orRefuse(readNewMap(wanted.map ?? defaultMap(name, branch), 1, branch));
  const taken = new Set((await allProjects(deps.db)).map((project) => project.name));
  if (taken.has(name))
    return refused({ code: 'name-taken', name, free: freeNamesNear(name, taken) });
  const at = deps.clock();
  const id = deps.newId();
  const credential = await credentialIn(deps, wanted.repository);
  const { repository, isNew } = await repositoryFor(deps, wanted, credential, id);
  const text = wanted.map ?? defaultMap(name, branch);
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
    unbuilt: null,
    endedAt: null,
  };
  const directory = directoryOf(deps.config.stateDirectory, repository.id);
  if (isNew) await makeBare(directory, branch);
  let done: Done<string>;
  try {
    const known = await knownBefore(deps, { ...wanted, directory, repository, credential, isNew });
    done = await inTransaction(deps.db, async (tx) => {
      // Whose repository it is does not end while another project begins to be built from it.
      if (!isNew) await lockProject(tx, repository.homeId);
      await insertProject(
        tx,
        { ...project, unbuilt: headIn(known, branch) },
        isNew ? repository : null,
      );
      const named = map.environments.flatMap((rule, place) =>
        rule.kind === 'each' ? [] : [{ id: deps.newId(), name: rule.name, place }],
      );
      await insertNamed(tx, project.id, named);
      const { personId } = caller;
      const of = { source: wanted.repository, repository, credential };
      await keepCredential(deps, tx, of, { by: personId, at });
      if (isNew) for (const [ref, commit] of known) await setRef(tx, repository.id, ref, commit);
      if (recipe !== null)
        await insertAccepted(tx, { projectId: project.id, version: 1, recipe, personId, at });
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
          recipe: recipe !== null,
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

/** Refuses (invalid-request) to wait for a push where one is waited for anyway. */
function requireBegin({ begin, repository: { kind } }: Pick<Wanted, 'begin' | 'repository'>): void {
  if (begin === 'next-push' && kind === 'hosted')
    refuseField('begin', 'is for a repository that is there: a new one waits for a push anyway');
}

interface Connected {
  readonly source: Wanted['repository'];
  readonly repository: RepositoryRow;
  readonly credential: Kept | null;
}

/** Brings what is there already where only what is pushed next is to be built: what is known does not move. */
async function knownBefore(
  deps: Deps,
  {
    begin,
    directory,
    repository,
    credential,
    isNew,
  }: Pick<Wanted, 'begin'> &
    Omit<Connected, 'source'> & { readonly directory: string; readonly isNew: boolean },
): Promise<ReadonlyMap<RefName, CommitId>> {
  if (begin === 'now') return new Map();
  if (isNew) await mirror(deps.config, directory, repository.place, credential);
  return refsOf(directory);
}

function headIn(refs: ReadonlyMap<RefName, CommitId>, branch: string): CommitId | null {
  const ref = refOfBranch(branch);
  return (ref === undefined ? undefined : refs.get(ref)) ?? null;
}

/** Seals what a repository is read with. Refuses: key-unknown, for one that was used meanwhile. */
async function keepCredential(
  deps: Deps,
  tx: Tx,
  { source, repository: { id, place }, credential }: Connected,
  when: { readonly by: string; readonly at: Instant },
): Promise<void> {
  if (credential !== null) await putCredential(deps, tx, id, credential, when);
  if (source.kind === 'ssh' && !(await takeKey(tx, source.key)))
    refused({ code: 'key-unknown', place });
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
