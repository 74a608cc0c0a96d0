import { Option } from '@commander-js/extra-typings';
import { peopleRoutes } from '@vaquero/contracts';
import { type ProjectRole, projectRoles, scopeInWords } from '@vaquero/core';
import { collect, command, give, Misuse, whole } from '../command.ts';
import { when } from '../output.ts';

const none: readonly string[] = [];

/** Makes a token; its secret is written once, alone on standard output, so that it can be piped. */
export const makeToken = command({
  name: 'make-token',
  says: 'a token for a program or for Git; shown once',
  examples: [
    'make-token dashboard --project timetable',
    'make-token night --project tides --role builder',
    'make-token a --project tides --environment staging',
    'make-token laptop --kind git',
    'make-token desk --everything',
  ],
  takes: (bare) =>
    bare
      .argument('<name>', 'what you will know it by')
      .option('--project <name>', 'it opens this project; once for each', collect, none)
      .addOption(
        new Option('--role <role>', 'at most what this role may there')
          .choices(projectRoles)
          .default('reader' as ProjectRole),
      )
      .option(
        '--environment <name>',
        'it acts on this one, or this family, alone; once for each',
        collect,
        none,
      )
      .option('--everything', 'it opens all that you may do')
      .addOption(
        new Option('--kind <kind>', 'what it opens')
          .choices(['all', 'git'] as const)
          .default('all' as const),
      )
      .option('--days <count>', 'how long it lives', whole, 90),
  run: async (context, [name], options) => {
    const { kind, days, project: projects, role, environment: environments } = options;
    const isWide = projects.length === 0;
    if (isWide && kind === 'all' && options.everything !== true)
      throw new Misuse(
        'Say what it is for: --project NAME, with --role and --environment where it is to do more than read. For all that you may do: --everything.',
      );
    const made = await context.client.call(peopleRoutes.makeTokenRoute, {
      body: {
        name,
        kind,
        days,
        scope: isWide
          ? null
          : {
              projects: [...projects],
              role,
              environments: environments.length === 0 ? null : [...environments],
            },
      },
    });
    give(context, made, (token) => {
      context.io.write(`${token.secret}\n`);
      context.io.err(
        `Token "${token.name}" (${scopeInWords(token)}) until ${when(token.expiresAt)}. It is not shown again.`,
      );
    });
  },
});
