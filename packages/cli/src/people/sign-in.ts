import { Option } from '@commander-js/extra-typings';
import { peopleRoutes } from '@vaquero/contracts';
import { clientFor } from '../addressing.ts';
import { command } from '../command.ts';
import { when } from '../output.ts';
import { keepSignIn } from './kept-sign-in.ts';
import { withCode } from './second-factor.ts';

/** Signs in with a password and keeps a token for this machine. */
export const signIn = command({
  name: 'sign-in',
  says: 'sign in and keep a token on this machine',
  examples: ['sign-in tomas', 'sign-in tomas --address https://vaquero.example'],
  takes: (bare) =>
    bare
      .argument('<name>', 'your name here')
      .addOption(
        new Option('--password <text>', 'the password; asked for when left out').env(
          'VAQUERO_PASSWORD',
        ),
      )
      .option('--code <digits>', 'of your second factor; asked for where one is needed'),
  run: async (context, [name], { password, code }) => {
    const given = password ?? (await context.io.value(`Password of ${name}: `, true));
    const { address } = context.client;
    const wish = { name, password: given, token: `command line, ${when(Date.now())}`, days: 30 };
    const token = await withCode(context, code, (typed) =>
      clientFor(address, undefined).call(peopleRoutes.signInForTokenRoute, {
        body: { ...wish, code: typed },
      }),
    );
    await keepSignIn(context.found.signIn, { address, token: token.secret, name });
    context.io.err(`Signed in at ${address} as ${name} until ${when(token.expiresAt)}.`);
  },
});
