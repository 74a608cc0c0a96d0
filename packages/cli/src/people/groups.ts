import { groupRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { safe, table } from '../output.ts';

/** Lists groups: who is in them, and what they were granted. */
export const groups = command({
  name: 'groups',
  says: 'groups of people, and what they were granted',
  examples: ['groups'],
  takes: (bare) => bare,
  run: async (context) => {
    const { io } = context;
    give(context, await context.client.call(groupRoutes.listGroupsRoute), ({ groups: all }) => {
      if (all.length === 0) return io.out('No group yet. Make one: vaquero make-group NAME');
      const rows = all.map(({ name, shownAs, people, grants }) => [
        name,
        safe(shownAs),
        people.map((one) => one.name).join(', ') || 'nobody',
        grants.map(({ project, role }) => `${role} ${project ?? 'everywhere'}`).join(', ') ||
          'nothing',
      ]);
      io.out(table(io, ['name', 'is called', 'people', 'was granted'], rows, 2));
    });
  },
});
