import { runnerRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showRunners } from './runner-table.ts';

/** Lists the runners. */
export const runners = command({
  name: 'runners',
  says: 'the machines that build, and whether they take builds',
  examples: ['runners'],
  takes: (bare) => bare,
  run: async (context) => {
    give(
      context,
      await context.client.call(runnerRoutes.listRunnersRoute, {}),
      ({ runners: all }) => showRunners(context.io, all),
    );
  },
});
