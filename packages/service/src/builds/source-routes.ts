import { roleRoutes } from '@vaquero/contracts';
import { seenPaths } from '@vaquero/core';
import type { Express, Response } from 'express';
import { sha256 } from '../audit/record.ts';
import type { Deps } from '../deps.ts';
import { serveGuarded } from '../http/serve-route.ts';
import { type ProjectRow, projectById } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { spawnGit } from '../repositories/git.ts';
import { treeChanges } from '../repositories/tree-changes.ts';
import { attemptOf } from './attempt-of.ts';
import { type AttemptRow, type BuildRecord, buildById } from './build-rows.ts';

/** Serves the tree of an attempt's commit, whole or as what changed since an earlier one. */
export function serveSource(app: Express, deps: Deps): void {
  const guard = async (req: Parameters<typeof attemptOf>[1]): Promise<Source> =>
    sourceOf(deps, await attemptOf(deps, req));
  serveGuarded(app, roleRoutes.attemptSourceRoute, guard, async ({ res }, source) => {
    res.setHeader('content-type', 'application/x-tar');
    await sendTree(res, source);
    return undefined;
  });
  serveGuarded(app, roleRoutes.attemptSourceChangesRoute, guard, async ({ query }, source) => {
    const { directory, commit, paths } = source;
    const changes = await treeChanges(directory, query.since, commit, paths);
    return {
      changes: changes && { written: [...changes.written], removed: [...changes.removed] },
    };
  });
}

interface Source {
  readonly directory: string;
  readonly commit: string;
  readonly paths: readonly string[];
}

async function sourceOf(deps: Deps, attempt: AttemptRow): Promise<Source> {
  const build = await buildById(deps.db, attempt.buildId);
  const project = await projectById(deps.db, build.projectId);
  return {
    directory: directoryOf(deps.config.stateDirectory, project.repositoryId),
    commit: build.commitId,
    paths: pathsOf(project, build),
  };
}

function pathsOf(project: ProjectRow, build: BuildRecord): readonly string[] {
  return build.recipe == null ? [] : seenPaths(build.recipe.recipe, project.folder);
}

/** Names the part of a repository that a build sees: trees of one name differ by their commits alone. */
export function sightOf(project: ProjectRow, build: BuildRecord): string {
  return sha256(JSON.stringify([project.repositoryId, pathsOf(project, build)]));
}

async function sendTree(res: Response, { directory, commit, paths }: Source): Promise<void> {
  const child = spawnGit(
    ['--literal-pathspecs', 'archive', '--format=tar', commit, '--', ...paths],
    directory,
  );
  child.stdin?.end();
  child.stderr?.resume();
  await new Promise<void>((resolve) => {
    child.stdout?.pipe(res, { end: false });
    child.once('close', (code) => {
      // A tree that could not be read whole must not look like one that ended: the connection is cut.
      if (code === 0) res.end();
      else res.destroy();
      resolve();
    });
  });
}
