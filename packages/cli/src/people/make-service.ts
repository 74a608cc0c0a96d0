import { Option } from '@commander-js/extra-typings';
import { serviceRoutes } from '@vaquero/contracts';
import { type ProjectRole, projectRoles } from '@vaquero/core';
import { command, give } from '../command.ts';

/** Makes a member of a project that is a program. */
export const makeService = command({
  name: 'make-service',
  says: 'a member of a project that is a program, with tokens of its own',
  examples: ['make-service timetable quay-board --role reader'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<name>', 'its name, which nobody else has')
      .addOption(
        new Option('--role <role>', 'what it may there')
          .choices(projectRoles)
          .default('reader' as ProjectRole),
      )
      .option('--called <words>', 'what it is called'),
  run: async (context, [project, name], { role, called }) => {
    const reply = await context.client.call(serviceRoutes.makeServiceRoute, {
      params: { project, service: name },
      body: { shownAs: called ?? name, role },
    });
    give(context, reply, () =>
      context.io.out(
        `${name} is ${role} of ${project}. A token: vaquero service-token ${project} ${name}`,
      ),
    );
  },
});
