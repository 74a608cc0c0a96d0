import type { AttemptGiven } from '@vaquero/contracts';
import { nameOfRef, seenPaths } from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import { sha256 } from '../base/sha256.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { treeChanges } from '../repositories/tree-changes.ts';
import type { BuildRecord } from './build-rows.ts';
import { folderOf } from './build-rows.ts';

/** The paths of the repository that a build sees; none: all of them. */
export function pathsOf(project: ProjectRow, build: BuildRecord): readonly string[] {
  return build.recipe == null ? [] : seenPaths(build.recipe.recipe, folderOf(project, build));
}

/** How the tree of a build differs from one that a runner keeps of the same sight; null when it is to be fetched whole. */
export async function changesSince(
  deps: Deps,
  project: ProjectRow,
  build: BuildRecord,
  kept: string | undefined,
): Promise<AttemptGiven['since']> {
  if (kept === undefined) return null;
  const directory = directoryOf(deps.config.stateDirectory, project.repositoryId);
  try {
    const changes = await treeChanges(directory, kept, build.commitId, pathsOf(project, build));
    return (
      changes && {
        commit: kept,
        changes: { written: [...changes.written], removed: [...changes.removed] },
      }
    );
  } catch (err) {
    // The attempt has begun: what keeps Git from answering here is said when the whole is fetched.
    deps.log.warn({ err, build: build.number }, 'what changed in a tree could not be read');
    return null;
  }
}

/**
 * Whose builds may find what this one leaves behind on a runner: all trusted ones of the project together, those of
 * an outsider's pull request only among themselves.
 */
export function circleOf(build: BuildRecord): string {
  return build.trust === 'trusted' ? '' : nameOfRef(build.ref);
}

/**
 * Names the part of a repository that a project's build sees, and its circle: trees of one name differ by their commits
 * alone, and no build of another circle ever wrote to them.
 */
export function sightOf(project: ProjectRow, build: BuildRecord): string {
  const circle = circleOf(build);
  const seen = [project.id, pathsOf(project, build), ...(circle === '' ? [] : [circle])];
  return sha256(JSON.stringify(seen));
}
