import { groupRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';

/** Makes a group, with nobody in it. */
export const makeGroup = command({
  name: 'make-group',
  says: 'a group of people, granted and named in maps like a person',
  examples: ['make-group release-desk --called "Release desk"'],
  takes: (bare) =>
    bare
      .argument('<name>', 'its name, which nobody else has')
      .option('--called <words>', 'what it is called'),
  run: async (context, [name], { called }) => {
    const reply = await context.client.call(groupRoutes.makeGroupRoute, {
      params: { group: name },
      body: { shownAs: called ?? name },
    });
    give(context, reply, () =>
      context.io.out(`${name} is there, with nobody in it: vaquero join-group ${name} NAME`),
    );
  },
});
