import { groupRoutes } from '@vaquero/contracts';
import { command, confirm, give } from '../command.ts';

/** Ends a group, once it was said what that takes from whom. */
export const endGroup = command({
  name: 'end-group',
  says: 'end a group, and what it was granted',
  examples: ['end-group release-desk', 'end-group release-desk --yes'],
  takes: (bare) => bare.argument('<group>', 'a group').option('--yes', 'do not ask'),
  run: async (context, [group]) => {
    const { io } = context;
    const { groups } = await context.client.call(groupRoutes.listGroupsRoute);
    const found = groups.find(({ name }) => name === group);
    if (found !== undefined) {
      const roles = found.grants.map(({ project, role }) => `${role} ${project ?? 'everywhere'}`);
      io.err(`It was granted ${roles.join(', ') || 'nothing'};`);
      io.err(`in it: ${found.people.map(({ name }) => name).join(', ') || 'nobody'}.`);
      await confirm(context, `End ${group}?`);
    }
    const reply = await context.client.call(groupRoutes.endGroupRoute, { params: { group } });
    give(context, reply, () => io.out(`${group} has ended.`));
  },
});
