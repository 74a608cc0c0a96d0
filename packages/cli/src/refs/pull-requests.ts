import { pullRequestRoutes } from '@vaquero/contracts';
import { command, give, whole } from '../command.ts';
import { safe, table, tone } from '../output.ts';

const columns = ['name', 'state', 'head', 'what it is about', 'from', 'how it stands'];

/** Lists the pull requests of a project: open ones first. */
export const pullRequests = command({
  name: 'pull-requests',
  says: 'what is proposed to be merged, and what was built of it',
  examples: ['pull-requests timetable', 'pull-requests timetable --after pr-12'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .option('--limit <count>', 'how many', whole, 50)
      .option('--after <pull-request>', 'those behind one of the list'),
  run: async (context, [project], { limit, after }) => {
    const { io } = context;
    const reply = await context.client.call(pullRequestRoutes.listPullRequestsRoute, {
      params: { project },
      query: { limit, ...(after === undefined ? {} : { after }) },
    });
    give(context, reply, ({ pullRequests: all, more }) => {
      if (all.length === 0)
        io.out(`No pull request yet. Open one: vaquero open-pull-request ${project} BRANCH`);
      else {
        const rows = all.map((one) => [
          one.name,
          tone(io, one.state === 'merged' ? 'good' : 'quiet', one.state),
          one.head?.commit.slice(0, 12) ?? '',
          safe(one.title),
          `${safe(one.from.branch)}${one.outsider ? tone(io, 'warn', ', an outsider’s') : ''}`,
          safe(one.says),
        ]);
        io.out(table(io, columns, rows, 3));
        const last = all.at(-1)?.name;
        if (more) io.out(`There are more: vaquero pull-requests ${project} --after ${last}`);
      }
    });
  },
});
