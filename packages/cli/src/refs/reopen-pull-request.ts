import { pullRequestRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showPullRequest } from './show-pull-request.ts';

/** Opens a closed pull request again. */
export const reopenPullRequest = command({
  name: 'reopen-pull-request',
  says: 'open a closed one again',
  examples: ['reopen-pull-request timetable pr-3'],
  takes: (bare) => bare.argument('<project>', 'a project').argument('<name>', 'such as pr-3'),
  run: async (context, [project, name]) => {
    const reply = await context.client.call(pullRequestRoutes.reopenPullRequestRoute, {
      params: { project, pullRequest: name },
    });
    give(context, reply, (one) => showPullRequest(context.io, project, one));
  },
});
