import { variableRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showVariables } from './show-variables.ts';

/** Takes a variable away. */
export const unset = command({
  name: 'unset',
  says: 'take a variable away',
  examples: ['unset timetable MAP_KEY', 'unset timetable NOTICE_LEVEL --environment staging'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<name>', 'the variable')
      .option('--environment <name>', 'the one for this environment', ''),
  run: async (context, [project, name], { environment }) => {
    await context.client.call(variableRoutes.dropVariableRoute, {
      params: { project, variable: name },
      query: { environment },
    });
    const params = { project };
    const reply = await context.client.call(variableRoutes.listVariablesRoute, { params });
    give(context, reply, () => showVariables(context.io, reply));
  },
});
