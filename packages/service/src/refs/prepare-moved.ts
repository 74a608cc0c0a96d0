import {
  type CommitId,
  type Family,
  type MovedRef,
  neverBuiltBy,
  type Proposed,
  pullRequestOf,
  type RefName,
  trustOf,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { type PreparedBuild, prepareBuilds } from '../builds/prepare-builds.ts';
import { type PullRequestRow, wordFor } from '../changes/pull-request-rows.ts';
import { destinationFor } from '../map/aim.ts';
import { mapOf } from '../map/map-rows.ts';
import type { ProjectRow } from '../projects/project-rows.ts';

/** The builds that projects want of refs that moved, by `keyOf`. */
export type Prepared = ReadonlyMap<string, readonly PreparedBuild[]>;

/** A first look at a large repository moves thousands of refs: their recipes are not all read for it. */
const mostReadForRecipes = 50;

/**
 * Reads from Git what the builds will need, before the transaction: none of it happens inside. The map sends
 * refs; a recipe's own `for` narrows that or adds to it.
 */
export async function prepareAll(
  deps: Deps,
  directory: string,
  projects: readonly ProjectRow[],
  moved: readonly MovedRef[],
  open: readonly PullRequestRow[],
): Promise<Prepared> {
  const maps = new Map(
    await Promise.all(
      projects.map(async (project) => [project.id, await mapOf(deps.db, project)] as const),
    ),
  );
  const seen = projects.flatMap((project) => {
    const map = maps.get(project.id);
    const room = new Map<string, number>();
    return moved.flatMap(({ ref, to }) => {
      if (to === null || map === undefined) return [];
      const { rules } = destinationFor(map, ref, proposedBy(pullAt(open, ref)));
      const isWanted = rules.some((rule) => rule.kind === 'follows' || hasRoom(room, rule));
      const isRead = isWanted || (moved.length <= mostReadForRecipes && rules.length === 0);
      return isRead ? [{ project, commit: to, ref }] : [];
    });
  });
  const entries = await Promise.all(
    seen.map(async ({ project, commit, ref }) => {
      const pull = pullAt(open, ref);
      const builds = (await mayBuild(deps, project, { ref, pull, commit }))
        ? await prepareBuilds(deps, directory, project, commit, ref, false, proposedBy(pull))
        : [];
      return [keyOf(project, ref, commit), builds] as const;
    }),
  );
  return new Map(entries);
}

/**
 * Whether one look may bring a family one more. A first look at a large repository moves thousands of branches: those
 * that would only push each other out are not built.
 */
function hasRoom(room: Map<string, number>, { name, atMost }: Family): boolean {
  const left = room.get(name) ?? atMost;
  room.set(name, left - 1);
  return left > 0;
}

/** The pull request whose head a ref is. */
export function pullAt(open: readonly PullRequestRow[], ref: RefName): PullRequestRow | undefined {
  const number = pullRequestOf(ref);
  return number === undefined ? undefined : open.find((pull) => pull.number === number);
}

/** What a pull request says of its commits. */
export function proposedBy(pull: PullRequestRow | undefined): Proposed | null {
  if (pull === undefined) return null;
  return { into: pull.into, trust: trustOf(pull.from), isDraft: pull.isDraft };
}

/** Code of outsiders is built on a member's word for the very commit; a head that nobody opened, not at all. */
async function mayBuild(
  deps: Deps,
  project: ProjectRow,
  { ref, pull, commit }: { ref: RefName; pull: PullRequestRow | undefined; commit: CommitId },
): Promise<boolean> {
  if (pull === undefined) return pullRequestOf(ref) === undefined;
  if (trustOf(pull.from) === 'trusted') return true;
  const map = await mapOf(deps.db, project);
  if (neverBuiltBy(map, ref, pull.into) !== null) return false;
  return (await wordFor(deps.db, pull.id, project.id, commit)) !== null;
}

/** Names what a project wants of a ref at a commit. */
export function keyOf(project: ProjectRow, ref: RefName, commit: CommitId): string {
  return `${project.id} ${ref} ${commit}`;
}
