import { buildRoutes } from '@vaquero/contracts';
import { command, give, whole } from '../command.ts';
import { followBuild } from './follow-build.ts';

/** Builds again: the newest commit, or that of an earlier build; follows it unless told otherwise. */
export const buildAgain = command({
  name: 'build-again',
  says: 'build the newest commit, or an earlier build’s, again',
  examples: ['build-again timetable', 'build-again timetable 218 --compared'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('[number]', 'the earlier build', whole)
      .option('--no-follow', 'do not wait for it')
      .option('--afresh', 'run every step, whatever is known')
      .option('--compared', 'run every step, and say where the result is not the known one')
      .option(
        '--meant',
        'it may be much smaller than what is live: somebody has looked, and means it',
      ),
  run: async (context, [project, number], { follow, afresh, compared, meant }) => {
    const { io } = context;
    const row = await context.client.call(buildRoutes.buildAgainRoute, {
      params: { project },
      body: {
        earlier: compared === true ? 'compared' : afresh === true ? 'left' : 'used',
        meant: meant === true,
        ...(number === undefined ? {} : { build: number }),
      },
    });
    const said = `Build ${row.number} of ${row.commit.id.slice(0, 12)} is ${row.state}.`;
    if (follow && !context.json) {
      io.err(said);
      await followBuild(context, project, row.number);
    } else give(context, row, () => io.out(said));
  },
});
