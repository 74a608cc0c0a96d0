import { pullRequestRoutes } from '@vaquero/contracts';
import { verdicts } from '@vaquero/core';
import { command, give, Misuse, NotDone } from '../command.ts';
import { readPullRequest, showPullRequest } from './show-pull-request.ts';

/** Says of the newest commit of a pull request that it looks right, or not yet. */
export const verdict = command({
  name: 'verdict',
  says: 'say of its newest commit: looks-right, or not-yet',
  examples: [
    'verdict timetable pr-3 looks-right',
    'verdict timetable pr-3 not-yet --says "too narrow"',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<name>', 'the pull request, such as pr-3')
      .argument('<verdict>', verdicts.join(' or '))
      .option('--says <text>', 'a sentence beside it'),
  run: async (context, [project, name, said], { says }) => {
    const given = verdicts.find((one) => one === said);
    if (given === undefined) throw new Misuse(`"${said}" is none: say ${verdicts.join(' or ')}.`);
    const { head } = await readPullRequest(context, project, name);
    if (head === null) throw new NotDone(`${name} has no commit yet.`);
    const reply = await context.client.call(pullRequestRoutes.giveVerdictRoute, {
      params: { project, pullRequest: name },
      body: { commit: head.commit, verdict: given, ...(says === undefined ? {} : { says }) },
    });
    give(context, reply, (one) => showPullRequest(context.io, project, one));
  },
});
