import { serviceRoutes } from '@vaquero/contracts';
import { scopeInWords } from '@vaquero/core';
import { collect, command, give, whole } from '../command.ts';
import { when } from '../output.ts';

const none: readonly string[] = [];

/** Makes a token of a service; its secret is written once, alone on standard output, so that it can be piped. */
export const serviceToken = command({
  name: 'service-token',
  says: 'a token of a service; shown once',
  examples: [
    'service-token timetable quay-board',
    'service-token tides night --environment staging',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<service>', 'a service of it')
      .option('--called <words>', 'what it will be known by', 'made by hand')
      .option(
        '--environment <name>',
        'it acts on this one, or this family, alone; once for each',
        collect,
        none,
      )
      .option('--days <count>', 'how long it lives', whole, 90),
  run: async (context, [project, service], { called, days, environment }) => {
    const made = await context.client.call(serviceRoutes.makeServiceTokenRoute, {
      params: { project, service },
      body: {
        name: called,
        days,
        environments: environment.length === 0 ? null : [...environment],
      },
    });
    give(context, made, (token) => {
      context.io.write(`${token.secret}\n`);
      context.io.err(
        `A token of ${service} (${scopeInWords(token)}) until ${when(token.expiresAt)}. It is not shown again.`,
      );
    });
  },
});
