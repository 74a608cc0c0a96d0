import { runnerRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showRunners } from './runner-table.ts';

/** Gives a drained runner builds again. */
export const useRunner = command({
  name: 'use-runner',
  says: 'give a drained runner builds again',
  examples: ['use-runner lune-quay'],
  takes: (bare) => bare.argument('<name>', 'the runner'),
  run: async (context, [name]) => {
    const reply = await context.client.call(runnerRoutes.setRunnerRoute, {
      params: { runner: name },
      body: { draining: false },
    });
    give(context, reply, (runner) => showRunners(context.io, [runner]));
  },
});
