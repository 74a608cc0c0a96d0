import {
  type ProjectTrial,
  type projectRoutes,
  readNewMap,
  refusalInWords,
} from '@vaquero/contracts';
import { defaultMap, freeNamesNear, readProjectName, refOfBranch } from '@vaquero/core';
import type { z } from 'zod';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import { addressOf, hostOfEnvironment } from '../projects/addresses.ts';
import { allProjects, branchesAmong, projectByName, refsKnown } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { lookAt } from '../repositories/repository-elsewhere.ts';
import { credentialIn } from './access-key.ts';
import { fetchedSight, sightOf } from './first-sight.ts';

type Wanted = z.output<typeof projectRoutes.tryProjectRoute.body>;

const mostBranches = 200;

/**
 * What a project that is to be made would be called, where it would answer, and what is at its repository.
 * Refuses: repository-*, address-not-allowed, path-not-allowed, token-needs-https, not-found.
 */
export async function tryProject(
  deps: Deps,
  { name, repository, map, ...place }: Wanted,
): Promise<ProjectTrial> {
  const read = readProjectName(name);
  const taken = new Set((await allProjects(deps.db)).map((project) => project.name));
  const refusal = !read.ok
    ? read.refusal
    : taken.has(name)
      ? ({ code: 'name-taken', name, free: freeNamesNear(name, taken) } as const)
      : null;
  return {
    fault: name === '' || refusal === null ? null : refusalInWords(refusal).sentence,
    free: refusal?.code === 'name-taken' ? [...refusal.free] : [],
    addresses: read.ok ? addressesOf(deps, name, map ?? defaultMap(name, 'main')) : [],
    repository: repository === null ? null : await lookFirst(deps, repository, place),
  };
}

/** Where what its first map names would answer: nowhere while that cannot be read. */
function addressesOf(deps: Deps, name: string, text: string): ProjectTrial['addresses'] {
  const map = readNewMap(text, 1, 'main');
  return !map.ok
    ? []
    : map.value.environments.flatMap((rule, place) =>
        rule.kind === 'each'
          ? []
          : [
              {
                environment: rule.name,
                address: addressOf(
                  hostOfEnvironment(deps.config, name, { name: rule.name, place }),
                ),
              },
            ],
      );
}

async function lookFirst(
  deps: Deps,
  source: NonNullable<Wanted['repository']>,
  wish: Pick<Wanted, 'branch' | 'folder'>,
): Promise<ProjectTrial['repository']> {
  if (source.kind === 'hosted')
    return { place: '', branches: [], first: null, sight: null, unseen: null };
  if (source.kind === 'shared') {
    const shared = await projectByName(deps.db, source.project);
    if (shared === undefined)
      return refused({ code: 'not-found', what: 'project', name: source.project });
    const refs = await refsKnown(deps.db, shared.repositoryId);
    const branches = branchesAmong(refs);
    const branch = wish.branch ?? shared.branch;
    const ref = refOfBranch(branch);
    const commit = ref === undefined ? undefined : refs.get(ref);
    const directory = directoryOf(deps.config.stateDirectory, shared.repositoryId);
    return {
      place: '',
      branches: branches.slice(0, mostBranches),
      first: shared.branch,
      ...(commit === undefined
        ? { sight: null, unseen: null }
        : await sightOf(deps.db, directory, { branch, commit, folder: wish.folder })),
    };
  }
  const credential = await credentialIn(deps, source);
  const { place, branches, first } = await lookAt(deps.config, source, credential);
  const wanted = wish.branch ?? first ?? branches[0];
  const seen =
    // What a host calls its branches is the host's own word.
    wanted === undefined || refOfBranch(wanted) === undefined || !branches.includes(wanted)
      ? { sight: null, unseen: null }
      : await fetchedSight(deps, { place, credential, branch: wanted, folder: wish.folder });
  return { place, branches: branches.slice(0, mostBranches), first, ...seen };
}
