import { command, give } from '../command.ts';
import { readPullRequest, showPullRequest } from './show-pull-request.ts';

/** Shows one pull request. */
export const pullRequest = command({
  name: 'pull-request',
  says: 'one of them, such as pr-3',
  examples: ['pull-request timetable pr-3'],
  takes: (bare) => bare.argument('<project>', 'a project').argument('<name>', 'such as pr-3'),
  run: async (context, [project, name]) => {
    give(context, await readPullRequest(context, project, name), (one) =>
      showPullRequest(context.io, project, one),
    );
  },
});
