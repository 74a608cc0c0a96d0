import { variableRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showVariables } from './show-variables.ts';

/** Lists variables and secrets: names, who set them and when; a secret's value is never shown. */
export const variables = command({
  name: 'variables',
  says: 'variables and secrets that builds are given',
  examples: ['variables timetable'],
  takes: (bare) => bare.argument('<project>', 'a project'),
  run: async (context, [project]) => {
    const params = { project };
    const reply = await context.client.call(variableRoutes.listVariablesRoute, { params });
    give(context, reply, () => showVariables(context.io, reply));
  },
});
