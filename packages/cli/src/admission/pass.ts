import { admissionRoutes, environmentRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { when } from '../output.ts';

/** Gets a program into a site that is not for everybody. */
export const pass = command({
  name: 'pass',
  says: 'a word that shows a program a site for members, for an hour',
  examples: ['pass timetable pr-12', 'pass timetable pr-12 --quiet'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<environment>', 'an environment, such as pr-12')
      .option('--quiet', 'the word alone'),
  run: async (context, [project, environment], { quiet }) => {
    const { address } = await context.client.call(environmentRoutes.showEnvironmentRoute, {
      params: { project, environment },
    });
    const reply = await context.client.call(admissionRoutes.passRoute, {
      body: { host: new URL(address).host },
    });
    give(context, reply, ({ pass: word, until }) => {
      context.io.out(word);
      if (quiet !== true)
        context.io.err(`Until ${when(until)}: curl -H "Vaquero-Pass: WORD" ${address}/`);
    });
  },
});
