import { peopleRoutes } from '@vaquero/contracts';
import { command } from '../command.ts';
import { forgetSignIn } from './kept-sign-in.ts';

/** Takes the kept token back and forgets it. */
export const signOut = command({
  name: 'sign-out',
  says: 'take the kept token back',
  examples: ['sign-out'],
  takes: (bare) => bare,
  run: async (context) => {
    const { tokens } = await context.client.call(peopleRoutes.listTokensRoute);
    const own = tokens.filter((token) => token.name.startsWith('command line,'));
    for (const token of own)
      await context.client.call(peopleRoutes.revokeTokenRoute, { params: { token: token.id } });
    await forgetSignIn(context.found.signIn);
    context.io.err(
      `Signed out; ${own.length} command-line ${own.length === 1 ? 'token is' : 'tokens are'} taken back.`,
    );
  },
});
