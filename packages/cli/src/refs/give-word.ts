import { type PullRequestReply, pullRequestRoutes } from '@vaquero/contracts';
import { authorInWords } from '@vaquero/core';
import { command, confirm, give, NotDone } from '../command.ts';
import { safe } from '../output.ts';
import { readPullRequest, showPullRequest } from './show-pull-request.ts';

/** Gives one's word for the commit that was looked at: the newest one, unless it is named. */
export const giveWord = command({
  name: 'give-word',
  says: 'let the newest commit of an outsider be built',
  examples: ['give-word timetable pr-3 --commit 4be1c02e9d0f'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<name>', 'the pull request, such as pr-3')
      .option('--commit <id>', 'the commit that you looked at')
      .option('--yes', 'do not ask'),
  run: async (context, [project, name], { commit: named }) => {
    const { head } = await readPullRequest(context, project, name);
    if (head === null) throw new NotDone(`${name} has no commit yet.`);
    // A short id stands for the newest commit only: a word for any other is refused by the service, whole.
    const isHead = named === undefined || head.commit.startsWith(named);
    if (!isHead && !/^[0-9a-f]{40,64}$/.test(named))
      throw new NotDone(`${named} is not the newest commit of ${name}, which is ${head.commit}.`);
    const commit = isHead
      ? head.commit
      : (named as PullRequestReply['builds'][number]['commit']['id']);
    await confirm(
      context,
      `Build ${commit.slice(0, 12)} “${safe(head.subject)}” by ${safe(authorInWords(head))}, code of an outsider? It gets no values, no caches and no results of others.`,
    );
    const reply = await context.client.call(pullRequestRoutes.giveWordRoute, {
      params: { project, pullRequest: name },
      body: { commit },
    });
    give(context, reply, (one) => showPullRequest(context.io, project, one));
  },
});
