import { buildRoutes } from '@vaquero/contracts';
import { command, give, whole } from '../command.ts';

/** Ends a build that waits or runs. */
export const cancel = command({
  name: 'cancel',
  says: 'end a build that waits or runs',
  examples: ['cancel timetable 218'],
  takes: (bare) => bare.argument('<project>', 'a project').argument('<number>', 'the build', whole),
  run: async (context, [project, build]) => {
    const row = await context.client.call(buildRoutes.cancelBuildRoute, {
      params: { project, build },
    });
    give(context, row, () => context.io.out(`Build ${row.number} is ${row.state}. Nothing moved.`));
  },
});
