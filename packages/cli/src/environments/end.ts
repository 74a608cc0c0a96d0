import { mapRoutes } from '@vaquero/contracts';
import { command, confirm } from '../command.ts';
import { environmentOf } from './environment-of.ts';

/** Ends one environment of a family. */
export const end = command({
  name: 'end',
  says: 'end an environment of a family; a new commit brings it back',
  examples: ['end timetable pr-12'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<environment>', 'the environment')
      .option('--yes', 'do not ask'),
  run: async (context, [project, named]) => {
    const { target } = await environmentOf(context, project, named);
    await confirm(context, `End ${target.name}? ${target.address} answers nothing then.`);
    await context.client.call(mapRoutes.endEnvironmentRoute, {
      params: { project, environment: target.name },
    });
    context.io.err(`${target.name} has ended. Its history and its artifacts stay.`);
  },
});
