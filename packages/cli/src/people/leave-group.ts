import { groupRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';

/** Take people out of a group, one after the other. */
export const leaveGroup = command({
  name: 'leave-group',
  says: 'take people out of a group',
  examples: ['leave-group release-desk noor ines'],
  takes: (bare) => bare.argument('<group>', 'a group').argument('<names...>', 'people, by name'),
  run: async (context, [group, names]) => {
    for (const person of names) {
      const reply = await context.client.call(groupRoutes.leaveGroupRoute, {
        params: { group, person },
      });
      const isLast = person === names.at(-1);
      if (isLast || !context.json)
        give(context, reply, () => context.io.out(`${person} is no longer in ${group}.`));
    }
  },
});
