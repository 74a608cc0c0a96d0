import { memberRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { safe, table, when } from '../output.ts';

/** Shows everybody of the installation. */
export const people = command({
  name: 'people',
  says: 'everybody of the installation, and what they were granted',
  examples: ['people'],
  takes: (bare) => bare,
  run: async (context) => {
    const { io } = context;
    const reply = await context.client.call(memberRoutes.listPeopleRoute);
    give(context, reply, ({ people: all, invitations }) => {
      const rows = all.map(({ name, shownAs, kind, grants, lastSeenAt }) => [
        name,
        kind === 'person' ? safe(shownAs) : `${safe(shownAs)}, a ${kind}`,
        grants
          .map(
            ({ project, role, group }) =>
              `${role} ${project ?? 'everywhere'}${group === null ? '' : ` by ${group}`}`,
          )
          .join(', ') || 'nothing',
        lastSeenAt === null ? 'not yet' : when(lastSeenAt),
      ]);
      io.out(table(io, ['name', 'is called', 'was granted', 'last seen'], rows, 2));
      for (const { role, by, expiresAt } of invitations)
        io.out(`An invitation as ${role}, by ${safe(by)}, waits until ${when(expiresAt)}.`);
    });
  },
});
