import { pullRequestRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showPullRequest } from './show-pull-request.ts';

/** Says into which other branch a pull request would be merged. */
export const retargetPullRequest = command({
  name: 'retarget-pull-request',
  says: 'have it merged into another branch',
  examples: ['retarget-pull-request timetable pr-3 harbour'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<name>', 'such as pr-3')
      .argument('<branch>', 'what it would be merged into'),
  run: async (context, [project, name, into]) => {
    const reply = await context.client.call(pullRequestRoutes.retargetPullRequestRoute, {
      params: { project, pullRequest: name },
      body: { into },
    });
    give(context, reply, (one) => showPullRequest(context.io, project, one));
  },
});
