import { passwordLinkRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { when } from '../output.ts';

/** Makes a link for somebody who lost their password. */
export const passwordLink = command({
  name: 'password-link',
  says: 'a link by which somebody sets another password, once',
  examples: ['password-link noor'],
  takes: (bare) => bare.argument('<name>', 'a person, by name'),
  run: async (context, [person]) => {
    const made = await context.client.call(passwordLinkRoutes.makePasswordLinkRoute, {
      params: { person },
    });
    give(context, made, ({ address, expiresAt }) => {
      context.io.out(address);
      context.io.err(
        `Whoever opens it sets the password of ${person}, once, until ${when(expiresAt)}. It is shown this once.`,
      );
    });
  },
});
