import type { ProjectSeen } from '@vaquero/contracts';
import {
  type CommitId,
  type Instant,
  nameOfPullRequest,
  neverBuiltBy,
  type RefName,
  refOfBranch,
  refOfPullRequest,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { lastBuildOf } from '../builds/build-rows.ts';
import { longestWaitingForWord } from '../changes/pull-request-rows.ts';
import { mapOf } from '../map/map-rows.ts';
import { addressOf, hostOfEnvironment } from '../projects/addresses.ts';
import {
  branchesAmong,
  type ProjectRow,
  projectById,
  type RepositoryRow,
  refsKnown,
  repositoryById,
} from '../projects/project-rows.ts';
import { commitFacts, directoryOf } from '../repositories/bare-repository.ts';
import { credentialSeen } from '../repositories/credential-rows.ts';
import { headSeen } from '../repositories/head-seen.ts';

/** A project as people see it: its repository's state in a sentence, its addresses before anything is built. */
export async function viewProject(deps: Deps, project: ProjectRow): Promise<ProjectSeen> {
  const [map, repository, refs, lastBuild, word] = await Promise.all([
    mapOf(deps.db, project),
    repositoryById(deps.db, project.repositoryId),
    refsKnown(deps.db, project.repositoryId),
    lastBuildOf(deps.db, project.id),
    longestWaitingForWord(deps.db, project),
  ]);
  const [home, credential] = await Promise.all([
    projectById(deps.db, repository.homeId),
    credentialSeen(deps.db, repository.id),
  ]);
  const ref = refOfBranch(project.branch);
  const head = ref === undefined ? undefined : refs.get(ref);
  const facts =
    head === undefined
      ? null
      : await commitFacts(directoryOf(deps.config.stateDirectory, repository.id), head);
  return {
    name: project.name,
    folder: project.folder,
    branch: project.branch,
    endedAt: project.endedAt as Instant | null,
    repository: {
      kind: repository.kind,
      place:
        repository.kind === 'hosted'
          ? `${deps.config.origin}/git/${home.name}.git`
          : repository.place,
      home: home.name,
      look: repository.look,
      lookedAt: repository.lookedAt as Instant | null,
      state: stateOf(project, repository, refs),
      trouble: repository.trouble,
      credential,
    },
    head: facts === null ? null : await headSeen(deps.db, facts),
    addresses: map.environments.flatMap(({ name, kind }, place) =>
      kind === 'each'
        ? []
        : [
            {
              environment: name,
              address: addressOf(hostOfEnvironment(deps.config, project.name, { name, place })),
            },
          ],
    ),
    lastBuild,
    word:
      word === null || neverBuiltBy(map, refOfPullRequest(word.number), word.into) !== null
        ? null
        : { name: nameOfPullRequest(word.number), title: word.title, since: word.openedAt },
  };
}

function stateOf(
  project: ProjectRow,
  repository: RepositoryRow,
  refs: ReadonlyMap<RefName, CommitId>,
): string {
  if (repository.trouble !== null) return `not read: ${repository.trouble}`;
  const ref = refOfBranch(project.branch);
  if (ref !== undefined && refs.has(ref)) return `read, look ${repository.look}`;
  if (refs.size === 0) return `waits for the first commit on ${project.branch}`;
  const branches = branchesAmong(refs).slice(0, 5);
  return `waits for the first commit on ${project.branch}; there are ${branches.join(', ')}`;
}
