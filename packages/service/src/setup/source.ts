import { readMap, type SourceReply, type SourceTrial } from '@vaquero/contracts';
import { failureInWords, type ProjectSource, refOfBranch, sourceMoveInWords } from '@vaquero/core';
import { lastSet } from '../audit/last-set-rows.ts';
import { decide } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { Impossible, orRefuse } from '../base/refused.ts';
import { requireSeen } from '../base/require-seen.ts';
import { sha256 } from '../base/sha256.ts';
import { keepFolderOfBuilds } from '../builds/build-change-rows.ts';
import { inTransaction } from '../database/transaction.ts';
import { mapOf, versionsOf } from '../map/map-rows.ts';
import type { Caller } from '../people/caller.ts';
import {
  branchesAmong,
  lockProject,
  type ProjectRow,
  projectById,
  refsKnown,
  repositoryById,
  setSource,
} from '../projects/project-rows.ts';
import { recipesOfCommit } from '../recipes/recipes-of-commit.ts';
import {
  commitFacts,
  directoryOf,
  hasFolder,
  setFirstBranch,
} from '../repositories/bare-repository.ts';
import { headSeen } from '../repositories/head-seen.ts';
import { readSource, requireBranch } from './read-source.ts';

const mostBranches = 200;

/** Which branch and folder of its repository a project is built from. */
export async function viewSource(deps: Deps, project: ProjectRow): Promise<SourceReply> {
  const { branch, folder } = project;
  const refs = await refsKnown(deps.db, project.repositoryId);
  return {
    branch,
    folder,
    version: versionOf(project),
    branches: branchesAmong(refs).toSorted().slice(0, mostBranches),
  };
}

/** What would change if a project were built from another branch or folder. Refuses: branch-missing, invalid-request. */
export async function trySource(
  deps: Deps,
  project: ProjectRow,
  wish: ProjectSource,
): Promise<SourceTrial> {
  const after = await sourceIn(deps, project, wish);
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  const ref = refOfBranch(after.branch);
  const [refs, repository, mapBefore, [newest]] = await Promise.all([
    refsKnown(deps.db, project.repositoryId),
    repositoryById(deps.db, project.repositoryId),
    mapOf(deps.db, project),
    versionsOf(deps.db, project.id, 1),
  ]);
  if (newest === undefined) throw new Impossible(`project ${project.id} has no map`);
  const head = ref === undefined ? undefined : refs.get(ref);
  const mapAfter = orRefuse(readMap(newest.text, newest.version, after.branch));
  const facts = head === undefined ? null : await commitFacts(directory, head);
  const moved = { ...project, ...after };
  const found = head === undefined ? [] : await recipesOfCommit(deps, directory, moved, head);
  return {
    source: after,
    head: facts === null ? null : await headSeen(deps.db, facts),
    says: [
      ...sourceMoveInWords({
        before: project,
        after,
        mapBefore,
        mapAfter,
        isFolderThere: head === undefined ? null : await hasFolder(directory, head, after.folder),
        isCloned: repository.kind === 'hosted' && repository.homeId === project.id,
      }),
    ],
    recipes: found.map((one) =>
      'recipe' in one
        ? {
            name: one.name,
            from: one.source.from,
            steps: one.recipe.steps.map(({ name }) => name),
            failure: null,
          }
        : { name: one.name, from: null, steps: [], failure: failureInWords(one.failure).what },
    ),
  };
}

/**
 * Has a project built from another branch or folder from now on. What was built stays what it is, and what is served stays
 * until the next build. Refuses: branch-missing, changed-since, invalid-request.
 */
export async function changeSource(
  deps: Deps,
  project: ProjectRow,
  wish: ProjectSource & { readonly reason: string },
  { caller, seen }: { readonly caller: Caller; readonly seen: string | null },
): Promise<SourceReply> {
  const after = await sourceIn(deps, project, wish);
  const repository = await repositoryById(deps.db, project.repositoryId);
  await inTransaction(deps.db, async (tx) => {
    await lockProject(tx, project.id);
    const locked = await projectById(tx, project.id);
    const last = () => lastSet(deps.db, project.id, 'project.source-set');
    await requireSeen(seen, 'branch and folder', versionOf(locked), last);
    if (versionOf(after) === versionOf(locked)) return;
    if (after.folder !== locked.folder) await keepFolderOfBuilds(tx, locked);
    await setSource(tx, project.id, after);
    decide(tx, {
      at: deps.clock(),
      kind: 'project.source-set',
      project,
      doing: caller.doing,
      why: wish.reason,
      facts: { ...after },
      before: { branch: locked.branch, folder: locked.folder },
      after: { ...after },
    });
  });
  const now = await projectById(deps.db, project.id);
  const ref = refOfBranch(now.branch);
  if (repository.kind === 'hosted' && repository.homeId === project.id && ref !== undefined)
    await setFirstBranch(directoryOf(deps.config.stateDirectory, repository.id), ref);
  return viewSource(deps, now);
}

/** A source that this project's repository has. Refuses: branch-missing, invalid-request. */
async function sourceIn(
  deps: Deps,
  { repositoryId }: ProjectRow,
  wish: ProjectSource,
): Promise<ProjectSource> {
  const source = readSource(wish);
  requireBranch(source.branch, branchesAmong(await refsKnown(deps.db, repositoryId)));
  return source;
}

function versionOf({ branch, folder }: ProjectSource): string {
  return sha256(JSON.stringify([branch, folder])).slice(0, 16);
}
