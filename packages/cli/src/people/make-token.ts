import { Option } from '@commander-js/extra-typings';
import { peopleRoutes } from '@vaquero/contracts';
import { command, give, whole } from '../command.ts';
import { when } from '../output.ts';

/** Makes a token; its secret is written once, alone on standard output, so that it can be piped. */
export const makeToken = command({
  name: 'make-token',
  says: 'a token for a program or for Git; shown once',
  examples: ['make-token laptop --kind git', 'make-token nightly --days 30'],
  takes: (bare) =>
    bare
      .argument('<name>', 'what you will know it by')
      .addOption(
        new Option('--kind <kind>', 'what it opens')
          .choices(['all', 'git'] as const)
          .default('all' as const),
      )
      .option('--days <count>', 'how long it lives', whole, 90),
  run: async (context, [name], { kind, days }) => {
    const made = await context.client.call(peopleRoutes.makeTokenRoute, {
      body: { name, kind, days },
    });
    give(context, made, (token) => {
      context.io.write(`${token.secret}\n`);
      context.io.err(
        `Token "${token.name}" (${token.kind === 'git' ? 'Git only' : 'all that you may do'}) until ${when(token.expiresAt)}. It is not shown again.`,
      );
    });
  },
});
