import { runnerRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showRunners } from './runner-table.ts';

/** Takes a runner's token back. */
export const dropRunner = command({
  name: 'drop-runner',
  says: 'take a runner’s token back',
  examples: ['drop-runner lune-quay'],
  takes: (bare) => bare.argument('<name>', 'the runner'),
  run: async (context, [name]) => {
    await context.client.call(runnerRoutes.dropRunnerRoute, { params: { runner: name } });
    give(
      context,
      await context.client.call(runnerRoutes.listRunnersRoute, {}),
      ({ runners: left }) => showRunners(context.io, left),
    );
  },
});
