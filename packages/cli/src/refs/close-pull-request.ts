import { pullRequestRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';

/** Closes a pull request. */
export const closePullRequest = command({
  name: 'close-pull-request',
  says: 'follow it no more; what was built stays',
  examples: ['close-pull-request timetable pr-3'],
  takes: (bare) => bare.argument('<project>', 'a project').argument('<name>', 'such as pr-3'),
  run: async (context, [project, name]) => {
    const reply = await context.client.call(pullRequestRoutes.closePullRequestRoute, {
      params: { project, pullRequest: name },
    });
    give(context, reply, (one) =>
      context.io.out(`${one.name} is ${one.state}. What was built of it stays.`),
    );
  },
});
