import { runnerRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';

/** Makes a runner known and writes its token, once. */
export const addRunner = command({
  name: 'add-runner',
  says: 'make a runner known; its token is shown once',
  examples: ['add-runner lune-quay'],
  takes: (bare) => bare.argument('<name>', 'what it is to be called'),
  run: async (context, [name]) => {
    const reply = await context.client.call(runnerRoutes.addRunnerRoute, { body: { name } });
    give(context, reply, ({ token }) => {
      context.io.write(`${token}\n`);
      context.io.err(
        `This is the token of ${name}; it is not shown again. Give it to the runner as VAQUERO_RUNNER_TOKEN, with VAQUERO_API and VAQUERO_STORE=elsewhere.`,
      );
    });
  },
});
