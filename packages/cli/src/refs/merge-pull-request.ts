import { pullRequestRoutes } from '@vaquero/contracts';
import { command, confirm, give, NotDone } from '../command.ts';
import { safe } from '../output.ts';
import { mergeInWords } from './merge-in-words.ts';
import { readPullRequest } from './show-pull-request.ts';

/** Merges a pull request whose repository is hosted here, after saying what comes of it. */
export const mergePullRequest = command({
  name: 'merge-pull-request',
  says: 'merge it, if its repository is hosted here',
  examples: ['merge-pull-request timetable pr-3', 'merge-pull-request timetable pr-3 --yes'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<name>', 'such as pr-3')
      .option('--yes', 'do not ask'),
  run: async (context, [project, name]) => {
    const { io } = context;
    const one = await readPullRequest(context, project, name);
    if (one.merge === null || one.head === null) throw new NotDone(`${one.name} is ${one.state}.`);
    io.err(`Merge ${one.name} “${safe(one.title)}” into ${safe(one.into)}.`);
    for (const line of mergeInWords(one)) io.err(line);
    await confirm(context, `Merge ${one.name} into ${one.into}?`);
    context.goesOn(`It may be merged: vaquero pull-request ${project} ${one.name} says so.`);
    const reply = await context.client.call(pullRequestRoutes.mergePullRequestRoute, {
      params: { project, pullRequest: name },
      body: { head: one.head.commit, target: one.merge.target },
    });
    give(context, reply, ({ state, into }) =>
      io.out(
        state === 'merged'
          ? `${one.name} is merged into ${safe(into)}.`
          : `${one.name} is merged into ${safe(into)}; that is being noticed.`,
      ),
    );
  },
});
