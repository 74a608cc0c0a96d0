import { Option } from '@commander-js/extra-typings';
import { secondFactorRoutes } from '@vaquero/contracts';
import { roles } from '@vaquero/core';
import { command, give } from '../command.ts';

/** Shows or sets from which role on a second factor is demanded. */
export const signInRule = command({
  name: 'sign-in-rule',
  says: 'who must sign in with a second factor',
  examples: ['sign-in-rule', 'sign-in-rule --second-factor-from releaser'],
  takes: (bare) =>
    bare.addOption(
      new Option('--second-factor-from <role>', 'demand one from this role on').choices([
        ...roles,
        'nobody',
      ]),
    ),
  run: async (context, _, { secondFactorFrom: from }) => {
    const { io, client } = context;
    if (from === undefined) {
      const rule = await client.call(secondFactorRoutes.showSignInRuleRoute);
      give(context, rule, ({ factorFrom }) => io.out(inWords(factorFrom)));
      return;
    }
    const factorFrom = roles.find((role) => role === from) ?? null;
    const set = await client.call(secondFactorRoutes.setSignInRuleRoute, { body: { factorFrom } });
    give(context, set, ({ sessionsEnded }) => {
      io.out(inWords(factorFrom));
      if (sessionsEnded > 0) io.err(`Signed out, as they have none: ${sessionsEnded}.`);
    });
  },
});

function inWords(factorFrom: string | null): string {
  return factorFrom === null
    ? 'A second factor is demanded of nobody.'
    : `A second factor is demanded of every ${factorFrom}, and whoever stands above.`;
}
