import { Option } from '@commander-js/extra-typings';
import { CallRefused, secondFactorRoutes } from '@vaquero/contracts';
import { clientFor } from '../addressing.ts';
import { type Context, command, give } from '../command.ts';

/** Asks for what a sign-in takes, and tries: where a code is needed it is asked for, too. */
export async function withCode<T>(
  { io }: Pick<Context, 'io'>,
  given: string | undefined,
  attempt: (code: string | undefined) => Promise<T>,
): Promise<T> {
  try {
    return await attempt(given);
  } catch (error) {
    const isAsked = error instanceof CallRefused && error.problem.code === 'code-needed';
    if (!isAsked || given !== undefined) throw error;
    return attempt(await io.value('Code of your second factor: ', false));
  }
}

/** Sets up a second factor of one's own, in place of any before. */
export const secondFactor = command({
  name: 'second-factor',
  says: 'set up, renew or end your second factor',
  examples: ['second-factor tomas', 'second-factor tomas --end'],
  takes: (bare) =>
    bare
      .argument('<name>', 'your name here')
      .option('--end', 'end it')
      .addOption(
        new Option('--password <text>', 'the password; asked for when left out').env(
          'VAQUERO_PASSWORD',
        ),
      ),
  run: async (context, [name], { password: said, end }) => {
    const { io } = context;
    const client = clientFor(context.client.address, undefined);
    const password = said ?? (await io.value(`Password of ${name}: `, true));
    if (end === true) {
      const ended = await withCode(context, undefined, (code) =>
        client.call(secondFactorRoutes.endFactorRoute, { body: { name, password, code } }),
      );
      give(context, ended, () => io.out(`${name} has no second factor any more.`));
      return;
    }
    const begun = await withCode(context, undefined, (code) =>
      client.call(secondFactorRoutes.beginFactorRoute, { body: { name, password, code } }),
    );
    io.err('Give this to a program for codes (TOTP, RFC 6238), as address or as secret:');
    io.err(begun.address);
    io.err(begun.secret);
    const code = await io.value('A code that it shows: ', false);
    const done = await client.call(secondFactorRoutes.confirmFactorRoute, {
      body: { name, password, code },
    });
    give(context, done, ({ words }) => {
      io.err(
        'It holds from the next sign-in on. Without it each of these opens once; they are shown this once:',
      );
      for (const word of words) io.out(word);
    });
  },
});
