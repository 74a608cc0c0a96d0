import { pullRequestRoutes } from '@vaquero/contracts';
import { nameOfPullRequest } from '@vaquero/core';
import type { Express } from 'express';
import type { Deps } from '../base/deps.ts';
import { refused } from '../base/refused.ts';
import {
  type PullRequestRow,
  pullRequestByNumber,
  pullRequestsBehind,
} from '../changes/pull-request-rows.ts';
import { serve } from '../http/serve-route.ts';
import { type Caller, requireAbility } from '../people/caller.ts';
import { homeOf, type ProjectRow } from '../projects/project-rows.ts';
import { bringInTarget } from '../refs/bring-in-target.ts';
import { closePullRequest } from '../refs/close-pull-request.ts';
import { giveVerdict } from '../refs/give-verdict.ts';
import { giveWord } from '../refs/give-word.ts';
import { mergePullRequest } from '../refs/merge-pull-request.ts';
import { openPullRequest } from '../refs/open-pull-request.ts';
import { reopenPullRequest } from '../refs/reopen-pull-request.ts';
import { retargetPullRequest } from '../refs/retarget-pull-request.ts';
import { setDraft } from '../refs/set-draft.ts';
import { viewPullRequest, viewWhole } from '../refs/view-pull-request.ts';
import type { Doorbell } from '../repositories/rings.ts';
import { serveAct } from './serve-act.ts';

/** Serves pull requests: their list, one, opening, closing, and a member's word for an outsider's commit. */
export function servePullRequests(app: Express, deps: Deps, doorbell: Doorbell): void {
  const seen = async ({ project }: { project: ProjectRow }, number: number) =>
    viewWhole(deps, project, await known(deps, project, number));
  serve(app, deps, pullRequestRoutes.listPullRequestsRoute, async ({ project, query }) => {
    const { after, limit } = query;
    const behind = after === undefined ? null : await known(deps, project, after);
    const all = await pullRequestsBehind(deps.db, project.repositoryId, behind, limit + 1);
    const page = all.slice(0, limit);
    const pulls = await Promise.all(page.map((pull) => viewPullRequest(deps, project, pull)));
    return { pullRequests: pulls, more: all.length > limit };
  });
  serve(app, deps, pullRequestRoutes.showPullRequestRoute, (call) =>
    seen(call, call.params.pullRequest),
  );
  serveAct(
    app,
    deps,
    pullRequestRoutes.openPullRequestRoute,
    async ({ project, body, caller }, done) => {
      await requirePushing(deps, project, caller);
      return openPullRequest(deps, doorbell, project, { ...body, caller }, done);
    },
    seen,
  );
  serveAct(
    app,
    deps,
    pullRequestRoutes.giveWordRoute,
    async ({ project, params, body, caller }, done) => {
      const pull = await known(deps, project, params.pullRequest);
      return giveWord(deps, project, pull, { ...body, caller }, done);
    },
    seen,
  );
  serveAct(
    app,
    deps,
    pullRequestRoutes.closePullRequestRoute,
    async ({ project, params, caller }, done) => {
      await requirePushing(deps, project, caller);
      const pull = await known(deps, project, params.pullRequest);
      return closePullRequest(deps, project, pull, caller, done);
    },
    seen,
  );
}

/** Serves what changes a pull request beside closing it. */
export function servePullRequestChanges(app: Express, deps: Deps, doorbell: Doorbell): void {
  serveAct(
    app,
    deps,
    pullRequestRoutes.reopenPullRequestRoute,
    async ({ project, params, caller }, done) => {
      await requirePushing(deps, project, caller);
      const pull = await known(deps, project, params.pullRequest);
      return reopenPullRequest(deps, doorbell, project, pull, caller, done);
    },
    async ({ project }, number) => viewWhole(deps, project, await known(deps, project, number)),
  );
  serve(
    app,
    deps,
    pullRequestRoutes.mergePullRequestRoute,
    async ({ project, params, body, caller }) => {
      await requirePushing(deps, project, caller);
      const pull = await known(deps, project, params.pullRequest);
      await mergePullRequest(deps, doorbell, project, pull, { ...body, caller });
      return viewWhole(deps, project, await known(deps, project, params.pullRequest));
    },
  );
  serve(app, deps, pullRequestRoutes.bringInRoute, async ({ project, params, body, caller }) => {
    await requirePushing(deps, project, caller);
    const pull = await known(deps, project, params.pullRequest);
    await bringInTarget(deps, doorbell, project, pull, { ...body, caller });
    return viewWhole(deps, project, await known(deps, project, params.pullRequest));
  });
  serve(
    app,
    deps,
    pullRequestRoutes.retargetPullRequestRoute,
    async ({ project, params, body, caller }) => {
      await requirePushing(deps, project, caller);
      const pull = await known(deps, project, params.pullRequest);
      await retargetPullRequest(deps, project, pull, { ...body, caller });
      return viewWhole(deps, project, await known(deps, project, params.pullRequest));
    },
  );
  serve(
    app,
    deps,
    pullRequestRoutes.giveVerdictRoute,
    async ({ project, params, body, caller }) => {
      const pull = await known(deps, project, params.pullRequest);
      await giveVerdict(deps, project, pull, { ...body, caller });
      return viewWhole(deps, project, pull);
    },
  );
  serve(app, deps, pullRequestRoutes.setDraftRoute, async ({ project, params, body, caller }) => {
    await requirePushing(deps, project, caller);
    const pull = await known(deps, project, params.pullRequest);
    await setDraft(deps, project, pull, { ...body, caller });
    return viewWhole(deps, project, await known(deps, project, params.pullRequest));
  });
}

/** Refuses (not-allowed) who may not push to the repository: a pull request is its, whichever project shows it. */
async function requirePushing(deps: Deps, project: ProjectRow, caller: Caller): Promise<void> {
  requireAbility(caller, 'build', await homeOf(deps.db, project));
}

async function known(deps: Deps, project: ProjectRow, number: number): Promise<PullRequestRow> {
  const pull = await pullRequestByNumber(deps.db, project.repositoryId, number);
  return (
    pull ?? refused({ code: 'not-found', what: 'pull request', name: nameOfPullRequest(number) })
  );
}
