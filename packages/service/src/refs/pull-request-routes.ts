import { pullRequestRoutes } from '@vaquero/contracts';
import { readPullRequestName } from '@vaquero/core';
import type { Express } from 'express';
import type { Deps } from '../deps.ts';
import { serveProject } from '../http/serve-route.ts';
import type { ProjectRow } from '../projects/project-rows.ts';
import { refused } from '../refused.ts';
import { closePullRequest } from './close-pull-request.ts';
import type { Doorbell } from './doorbell.ts';
import { giveWord } from './give-word.ts';
import { openPullRequest } from './open-pull-request.ts';
import {
  endedPullRequests,
  openPullRequests,
  type PullRequestRow,
  pullRequestByNumber,
} from './pull-request-rows.ts';
import { viewPullRequest, viewWhole } from './view-pull-request.ts';

const mostEnded = 50;

/** Serves pull requests: their list, one, opening, closing, and a member's word for an outsider's commit. */
export function servePullRequests(app: Express, deps: Deps, doorbell: Doorbell): void {
  const seen = async (project: ProjectRow, number: number | undefined) =>
    viewWhole(deps, project, await known(deps, project, number));
  serveProject(app, deps, pullRequestRoutes.listPullRequestsRoute, async ({ project }) => {
    const [open, ended] = await Promise.all([
      openPullRequests(deps.db, project.repositoryId),
      endedPullRequests(deps.db, project.repositoryId, mostEnded),
    ]);
    const all = [...open.toSorted((a, b) => b.number - a.number), ...ended];
    return {
      pullRequests: await Promise.all(all.map((pull) => viewPullRequest(deps, project, pull))),
    };
  });
  serveProject(app, deps, pullRequestRoutes.showPullRequestRoute, ({ project, params }) =>
    seen(project, readPullRequestName(params.name ?? '')),
  );
  serveProject(
    app,
    deps,
    pullRequestRoutes.openPullRequestRoute,
    async ({ project, body, caller }) =>
      seen(project, await openPullRequest(deps, doorbell, project, body, caller)),
  );
  serveProject(
    app,
    deps,
    pullRequestRoutes.giveWordRoute,
    async ({ project, params, body, caller }) => {
      const pull = await known(deps, project, readPullRequestName(params.name ?? ''));
      await giveWord(deps, project, pull, body.commit, caller);
      return seen(project, pull.number);
    },
  );
  serveProject(
    app,
    deps,
    pullRequestRoutes.closePullRequestRoute,
    async ({ project, params, caller }) => {
      const pull = await known(deps, project, readPullRequestName(params.name ?? ''));
      await closePullRequest(deps, project, pull, caller);
      return seen(project, pull.number);
    },
  );
}

async function known(
  deps: Deps,
  project: ProjectRow,
  number: number | undefined,
): Promise<PullRequestRow> {
  const pull =
    number === undefined
      ? undefined
      : await pullRequestByNumber(deps.db, project.repositoryId, number);
  return (
    pull ??
    refused({
      code: 'not-found',
      what: 'pull request',
      name: number === undefined ? 'by that name' : `pr-${number}`,
    })
  );
}
