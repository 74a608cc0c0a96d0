import { memberRoutes } from '@vaquero/contracts';
import { roles } from '@vaquero/core';
import { command, give, Misuse } from '../command.ts';

/** Gives a person a role in the whole installation, or takes it. */
export const grantEverywhere = command({
  name: 'grant-everywhere',
  says: 'give a person a role in the whole installation, or none',
  examples: ['grant-everywhere noor operator', 'grant-everywhere noor none'],
  takes: (bare) =>
    bare.argument('<name>', 'a person, by name').argument('<role>', `${roles.join(', ')} or none`),
  run: async (context, [person, said]) => {
    const role = roles.find((one) => one === said) ?? null;
    if (role === null && said !== 'none')
      throw new Misuse(`${said} is no role: say ${roles.join(', ')} or none.`);
    const reply = await context.client.call(memberRoutes.grantEverywhereRoute, {
      params: { person },
      body: { role },
    });
    give(context, reply, () =>
      context.io.out(
        role === null
          ? `${person} has no role in the installation any more.`
          : `${person} is ${role} in the whole installation.`,
      ),
    );
  },
});
