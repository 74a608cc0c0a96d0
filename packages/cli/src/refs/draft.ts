import { pullRequestRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showPullRequest } from './show-pull-request.ts';

/** Says that a pull request is a draft, or is one no longer. */
export const draft = command({
  name: 'draft',
  says: 'a pull request has no environment until it is ready',
  examples: ['draft timetable pr-3', 'draft timetable pr-3 --no-longer'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<name>', 'such as pr-3')
      .option('--no-longer', 'it is ready: its environment starts'),
  run: async (context, [project, name], { longer }) => {
    const reply = await context.client.call(pullRequestRoutes.setDraftRoute, {
      params: { project, pullRequest: name },
      body: { isDraft: longer },
    });
    give(context, reply, (one) => showPullRequest(context.io, project, one));
  },
});
