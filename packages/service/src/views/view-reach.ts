import type { ReachReply } from '@vaquero/contracts';
import {
  type Member,
  may,
  pullRequestOf,
  type Reach,
  type RefReaching,
  reachOf,
  refOfPullRequest,
  ruleInWords,
  trustOf,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { openPullRequests } from '../changes/pull-request-rows.ts';
import type { Db } from '../database/pool.ts';
import { mapOf } from '../map/map-rows.ts';
import { membersOf } from '../people/grant-rows.ts';
import { type ProjectRow, refsKnown, repositoryById } from '../projects/project-rows.ts';

const mostNames = 50;

/** Who and what can reach which environment of a project. */
export async function reachNow({ db }: Deps, project: ProjectRow): Promise<Reach> {
  const [map, people, refs] = await Promise.all([
    mapOf(db, project),
    peopleReaching(db, project),
    refsReaching(db, project.repositoryId),
  ]);
  return reachOf(map, { ...people, refs });
}

/** Who may read a project, with their grants, and the project whose roles say who pushes. */
export async function peopleReaching(
  db: Db,
  project: ProjectRow,
): Promise<{
  readonly project: string;
  readonly members: readonly Member[];
  readonly home: string | null;
}> {
  const repository = await repositoryById(db, project.repositoryId);
  const members = await membersOf(db, [project.id, repository.homeId]);
  return {
    project: project.id,
    // A group reaches what the people in it reach.
    members: members.filter(
      ({ kind, grants }) => kind !== 'group' && may(grants, 'read', project.id),
    ),
    home: repository.kind === 'hosted' ? repository.homeId : null,
  };
}

/** The same as people see it. */
export async function viewReach(deps: Deps, project: ProjectRow): Promise<ReachReply> {
  const [map, { people, refs, warnings }] = await Promise.all([
    mapOf(deps.db, project),
    reachNow(deps, project),
  ]);
  return {
    version: map.version,
    rules: map.environments.map((rule) => ({
      name: rule.name,
      says: ruleInWords(rule),
      kind: rule.kind,
    })),
    people: people.map((one) => ({ ...one, deeds: one.deeds.map((own) => [...own]) })),
    refs: refs.map(({ kind, names, ways }) => ({
      kind,
      names: names.slice(0, mostNames),
      count: names.length,
      ways: [...ways],
    })),
    warnings: [...warnings],
  };
}

/** Every ref that is there and every open pull request, those of outsiders too. */
async function refsReaching(db: Db, repositoryId: string): Promise<readonly RefReaching[]> {
  const [refs, open] = await Promise.all([
    refsKnown(db, repositoryId),
    openPullRequests(db, repositoryId),
  ]);
  return [
    ...[...refs.keys()]
      .filter((ref) => pullRequestOf(ref) === undefined)
      .map((ref) => ({ ref, into: null, isOutsiders: false })),
    ...open.map(({ number, into, from }) => ({
      ref: refOfPullRequest(number),
      into,
      isOutsiders: trustOf(from) === 'outsider',
    })),
  ];
}
