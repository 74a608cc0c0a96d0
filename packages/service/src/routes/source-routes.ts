import { type AttemptGiven, roleRoutes } from '@vaquero/contracts';
import { nameOfRef, seenPaths } from '@vaquero/core';
import type { Express, Response } from 'express';
import { sha256 } from '../audit/record.ts';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import type { AttemptRow } from '../builds/attempt-rows.ts';
import { type BuildRecord, buildById, folderOf } from '../builds/build-rows.ts';
import { serve } from '../http/serve-route.ts';
import { type ProjectRow, projectById, repositoryById } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { spawnGit } from '../repositories/git.ts';
import {
  fetchSubmodules,
  type Submodule,
  SubmoduleMissing,
  type SubmoduleSource,
} from '../repositories/submodules.ts';
import { treeChanges } from '../repositories/tree-changes.ts';
import { CommitUnreadable } from '../repositories/tree-size.ts';

/** Serves the tree of an attempt's commit. */
export function serveSource(app: Express, deps: Deps): void {
  serve(app, deps, roleRoutes.attemptSourceRoute, async ({ res, attempt }) => {
    const source = await sourceOf(deps, attempt);
    const submodules = await submodulesOf(deps, source);
    res.setHeader('content-type', 'application/x-tar');
    const { directory, commit, paths } = source;
    // One archive behind the other: the runner's tar reads on after each one's end.
    let whole = await sendArchive(res, directory, [commit, '--', ...paths]);
    for (const one of submodules) {
      if (!whole) break;
      whole = await sendArchive(res, one.directory, [`--prefix=${one.path}/`, one.commit]);
    }
    // A tree that could not be read whole must not look like one that ended: the connection is cut.
    if (whole) res.end();
    else res.destroy();
    return undefined;
  });
}

/** Refuses (source-incomplete) a tree whose submodules cannot all be fetched, with the reason. */
async function submodulesOf(deps: Deps, source: Source): Promise<readonly Submodule[]> {
  try {
    return await fetchSubmodules(deps, source, source.commit, source.paths);
  } catch (error) {
    if (error instanceof SubmoduleMissing || error instanceof CommitUnreadable)
      return refused({ code: 'source-incomplete', why: error.message });
    throw error;
  }
}

interface Source extends SubmoduleSource {
  readonly commit: string;
  readonly paths: readonly string[];
}

async function sourceOf(deps: Deps, attempt: AttemptRow): Promise<Source> {
  const build = await buildById(deps.db, attempt.buildId);
  const project = await projectById(deps.db, build.projectId);
  const repository = await repositoryById(deps.db, project.repositoryId);
  return {
    // One that is hosted here has the address that people push to.
    place:
      repository.kind === 'hosted'
        ? `${deps.config.origin}/git/${project.name}.git`
        : repository.place,
    project,
    directory: directoryOf(deps.config.stateDirectory, project.repositoryId),
    commit: build.commitId,
    paths: pathsOf(project, build),
    trust: build.trust,
  };
}

function pathsOf(project: ProjectRow, build: BuildRecord): readonly string[] {
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

/** Sends an archive of a tree; false when Git failed on the way. */
async function sendArchive(
  res: Response,
  directory: string,
  tree: readonly string[],
): Promise<boolean> {
  const child = spawnGit(['--literal-pathspecs', 'archive', '--format=tar', ...tree], directory);
  child.stdin?.end();
  child.stderr?.resume();
  return new Promise((resolve) => {
    child.stdout?.pipe(res, { end: false });
    child.once('close', (code) => resolve(code === 0));
  });
}
