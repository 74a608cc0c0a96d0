import { buildRoutes } from '@vaquero/contracts';
import { command, give, whole } from '../command.ts';
import { describe } from './describe-build.ts';

/** Shows one build: its answer first, then its steps. */
export const build = command({
  name: 'build',
  says: 'one build: is it done, and if it failed, why',
  examples: ['build timetable 218'],
  takes: (bare) => bare.argument('<project>', 'a project').argument('<number>', 'the build', whole),
  run: async (context, [project, number]) => {
    const reply = await context.client.call(buildRoutes.showBuildRoute, {
      params: { project, build: number },
    });
    give(context, reply, (seen) => {
      for (const line of describe(context.io, seen)) context.io.out(line);
    });
  },
});
