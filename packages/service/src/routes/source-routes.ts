import { roleRoutes } from '@vaquero/contracts';
import type { Express, Response } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import type { AttemptRow } from '../builds/attempt-rows.ts';
import { buildById } from '../builds/build-rows.ts';
import { pathsOf } from '../builds/seen-source.ts';
import { serve } from '../http/serve-route.ts';
import { projectById, repositoryById } from '../projects/project-rows.ts';
import { directoryOf } from '../repositories/bare-repository.ts';
import { spawnGit } from '../repositories/git.ts';
import {
  fetchSubmodules,
  type Submodule,
  SubmoduleMissing,
  type SubmoduleSource,
} from '../repositories/submodules.ts';
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
