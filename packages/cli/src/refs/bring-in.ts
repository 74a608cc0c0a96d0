import { pullRequestRoutes } from '@vaquero/contracts';
import { command, give, NotDone } from '../command.ts';
import { safe } from '../output.ts';
import { readPullRequest } from './show-pull-request.ts';

/** Brings what a pull request's target has into its branch. */
export const bringIn = command({
  name: 'bring-in',
  says: 'bring its target into its branch, by a merge',
  examples: ['bring-in timetable pr-3'],
  takes: (bare) => bare.argument('<project>', 'a project').argument('<name>', 'such as pr-3'),
  run: async (context, [project, name]) => {
    const { io } = context;
    const one = await readPullRequest(context, project, name);
    if (one.merge === null || one.head === null) throw new NotDone(`${one.name} is ${one.state}.`);
    const head = one.head.commit;
    const reply = await context.client.call(pullRequestRoutes.bringInRoute, {
      params: { project, pullRequest: name },
      body: { head, target: one.merge.target },
    });
    give(context, reply, (now) =>
      io.out(
        now.head?.commit === head
          ? `${now.name} has all of ${safe(now.into)} already.`
          : `${safe(now.into)} is in ${safe(now.from.branch)}: ${now.name} is at ${now.head?.commit.slice(0, 8)} ${safe(now.head?.subject ?? '')}`,
      ),
    );
  },
});
