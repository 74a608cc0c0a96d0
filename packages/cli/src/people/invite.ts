import { Option } from '@commander-js/extra-typings';
import { memberRoutes } from '@vaquero/contracts';
import { roles } from '@vaquero/core';
import { command, give, Misuse } from '../command.ts';
import { when } from '../output.ts';

/** Invites somebody by a link that works once. */
export const invite = command({
  name: 'invite',
  says: 'a link by which somebody joins a project, once',
  examples: ['invite timetable --role builder', 'invite --role operator'],
  takes: (bare) =>
    bare
      .argument('[project]', 'a project; the whole installation otherwise')
      .addOption(
        new Option('--role <role>', 'what they may do').choices(roles).default('reader' as const),
      ),
  run: async (context, [project], { role }) => {
    const { client, io } = context;
    if (project !== undefined && role === 'operator')
      throw new Misuse('An operator is one of the installation: leave the project out.');
    const made =
      project === undefined || role === 'operator'
        ? await client.call(memberRoutes.inviteEverywhereRoute, { body: { role } })
        : await client.call(memberRoutes.inviteRoute, { params: { project }, body: { role } });
    give(context, made, ({ address, expiresAt }) => {
      io.out(address);
      io.err(
        `Whoever opens it becomes a ${role} of ${project ?? 'the installation'}, once, until ${when(expiresAt)}. It is shown this once.`,
      );
    });
  },
});
