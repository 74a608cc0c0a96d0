import { memberRoutes } from '@vaquero/contracts';
import { projectRoles } from '@vaquero/core';
import { command, give, Misuse } from '../command.ts';

/** Gives a person a role in a project in place of the one that they had there, or takes it. */
export const grant = command({
  name: 'grant',
  says: 'give a person a role in a project, or none',
  examples: ['grant timetable noor builder', 'grant timetable noor none'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<name>', 'a person, by name')
      .argument('<role>', `${projectRoles.join(', ')} or none`),
  run: async (context, [project, person, said]) => {
    const role = projectRoles.find((one) => one === said);
    if (role === undefined && said !== 'none')
      throw new Misuse(`${said} is no role: say ${projectRoles.join(', ')} or none.`);
    const params = { project, person };
    const reply =
      role === undefined
        ? await context.client.call(memberRoutes.endGrantRoute, { params })
        : await context.client.call(memberRoutes.grantRoute, { params, body: { role } });
    give(context, reply, () =>
      context.io.out(
        role === undefined
          ? `${person} has no role in ${project} any more.`
          : `${person} is ${role} of ${project}.`,
      ),
    );
  },
});
