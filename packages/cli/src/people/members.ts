import { memberRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { safe, table, when } from '../output.ts';

/** Shows who may do what in a project. */
export const members = command({
  name: 'members',
  says: 'who may do what in a project, and invitations that wait',
  examples: ['members timetable'],
  takes: (bare) => bare.argument('<project>', 'a project'),
  run: async (context, [project]) => {
    const { io } = context;
    const reply = await context.client.call(memberRoutes.listMembersRoute, { params: { project } });
    give(context, reply, ({ members: all, invitations }) => {
      const rows = all.map(({ name, shownAs, kind, role, group, everywhere, lastSeenAt }) => [
        name,
        kind === 'person' ? safe(shownAs) : `${safe(shownAs)}, a ${kind}`,
        everywhere ? `${role}, everywhere` : group === null ? role : `${role}, by ${group}`,
        lastSeenAt === null ? 'not yet' : when(lastSeenAt),
      ]);
      io.out(table(io, ['name', 'is called', 'role', 'last seen'], rows, 1));
      for (const { role, by, expiresAt } of invitations)
        io.out(`An invitation as ${role}, by ${safe(by)}, waits until ${when(expiresAt)}.`);
    });
  },
});
