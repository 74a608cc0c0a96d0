import { groupRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';

/** Put people into a group, one after the other. */
export const joinGroup = command({
  name: 'join-group',
  says: 'put people into a group',
  examples: ['join-group release-desk noor ines'],
  takes: (bare) => bare.argument('<group>', 'a group').argument('<names...>', 'people, by name'),
  run: async (context, [group, names]) => {
    for (const person of names) {
      const reply = await context.client.call(groupRoutes.joinGroupRoute, {
        params: { group, person },
      });
      const isLast = person === names.at(-1);
      if (isLast || !context.json)
        give(context, reply, () => context.io.out(`${person} is in ${group}.`));
    }
  },
});
