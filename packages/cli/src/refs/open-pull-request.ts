import { pullRequestRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showPullRequest } from './show-pull-request.ts';

/** Opens a pull request and says how it stands. */
export const openPullRequest = command({
  name: 'open-pull-request',
  says: 'propose that a branch be merged',
  examples: ['open-pull-request timetable try/quay-map'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<branch>', 'the branch that has the change')
      .option('--into <branch>', 'what it would be merged into; the project’s branch otherwise')
      .option('--url <address>', 'a repository elsewhere that has the branch: an outsider’s')
      .option('--draft', 'built, and given no environment until it is ready')
      .option('--title <text>', 'what it is about; the branch’s name otherwise'),
  run: async (context, [project, branch], { into, url, title, draft }) => {
    const opened = await context.client.call(pullRequestRoutes.openPullRequestRoute, {
      params: { project },
      body: {
        branch,
        title: title ?? branch,
        place: url ?? null,
        isDraft: draft === true,
        ...(into === undefined ? {} : { into }),
      },
    });
    give(context, opened, (one) => showPullRequest(context.io, project, one));
  },
});
