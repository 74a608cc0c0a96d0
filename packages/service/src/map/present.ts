import {
  type DeliveryMap,
  type Head,
  type Present,
  pullRequestOf,
  type RefName,
  refOfBranch,
  refOfPullRequest,
  trustOf,
  wants,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { openPullRequests } from '../changes/pull-request-rows.ts';
import type { Db, Tx } from '../database/pool.ts';
import { environmentsOf } from '../environments/environment-rows.ts';
import { endedOf, livingOf } from '../environments/family-rows.ts';
import { type ProjectRow, refsKnown } from '../projects/project-rows.ts';

/** The refs that a map may send somewhere: those of the repository, and the heads of its own people's pull requests. */
export async function headsOf(db: Db | Tx, repositoryId: string): Promise<readonly Head[]> {
  const [refs, open] = await Promise.all([
    refsKnown(db, repositoryId),
    openPullRequests(db, repositoryId),
  ]);
  const pulls = new Map(open.map((pull) => [refOfPullRequest(pull.number), pull]));
  return [...refs].flatMap(([ref, commit]): readonly Head[] => {
    if (pullRequestOf(ref) === undefined) return [{ ref, commit, into: null }];
    const pull = pulls.get(ref as RefName);
    // What outsiders propose reaches no environment, and a draft none until it is ready.
    return pull === undefined || trustOf(pull.from) === 'outsider' || pull.isDraft
      ? []
      : [{ ref, commit, into: pull.into }];
  });
}

/** What is there that maps are held against. */
export async function presentOf(
  deps: Deps,
  project: ProjectRow,
  maps: readonly DeliveryMap[],
): Promise<Present> {
  const own = refOfBranch(project.branch);
  const [found, living, all] = await Promise.all([
    headsOf(deps.db, project.repositoryId),
    livingOf(deps.db, project.id),
    environmentsOf(deps.db, project.id),
  ]);
  const heads = found.filter(({ ref, commit }) => ref !== own || commit !== project.unbuilt);
  const families = maps.flatMap(({ environments }) =>
    environments.filter(({ kind }) => kind === 'each'),
  );
  const wanted = heads.filter(({ ref, into }) => families.some((rule) => wants(rule, ref, into)));
  const refs = wanted.map(({ ref }) => ref);
  const ended = await endedOf(deps.db, project.id, refs);
  const standing = all.flatMap(({ name, ref }) => (ref === null ? [name] : []));
  return { heads, living, ended, standing, now: deps.clock() };
}
