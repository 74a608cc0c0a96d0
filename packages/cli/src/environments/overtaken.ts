import { Argument } from '@commander-js/extra-typings';
import { environmentRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';

/** Says what a newer commit does to an older one's build that has not ended. */
export const overtaken = command({
  name: 'overtaken',
  says: 'what a newer commit does to an older build',
  examples: ['overtaken timetable staging stop'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<environment>', 'an environment that follows a branch')
      .addArgument(new Argument('<wish>', 'stop it, or let it finish').choices(['stop', 'finish'])),
  run: async (context, [project, environment, wish]) => {
    const reply = await context.client.call(environmentRoutes.setOvertakenRoute, {
      params: { project, environment },
      body: { overtaken: wish },
    });
    give(context, reply, ({ overtaken: now }) =>
      context.io.out(
        now === 'stop'
          ? `A newer commit that ${environment} wants now ends the build of the older one.`
          : `Builds for ${environment} finish, whatever is pushed meanwhile.`,
      ),
    );
  },
});
