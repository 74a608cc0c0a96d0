import { runnerRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showRunners } from './runner-table.ts';

/** Lets a runner finish what it builds and gives it nothing more. */
export const drainRunner = command({
  name: 'drain-runner',
  says: 'let a runner finish what it builds and give it nothing more',
  examples: ['drain-runner lune-quay'],
  takes: (bare) => bare.argument('<name>', 'the runner'),
  run: async (context, [name]) => {
    const reply = await context.client.call(runnerRoutes.setRunnerRoute, {
      params: { runner: name },
      body: { draining: true },
    });
    give(context, reply, (runner) => showRunners(context.io, [runner]));
  },
});
