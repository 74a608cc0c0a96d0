import { lifeRoutes } from '@vaquero/contracts';
import { command, give, Misuse } from '../command.ts';
import { safe } from '../output.ts';

/** Ends a project for good, after saying what goes and what stays; its name is typed once more. */
export const endProject = command({
  name: 'end-project',
  says: 'end a project for good; its history stays',
  examples: ['end-project tides --try', 'end-project tides --reason "moved" --typed tides'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .option('--reason <text>', 'stands beside it in the record')
      .option('--typed <name>', 'its name once more, in place of the question')
      .option('--try', 'say what goes and what stays, and change nothing'),
  run: async (context, [project], { reason, typed, try: isTrial }) => {
    const { io } = context;
    const params = { project };
    const tried = await context.client.call(lifeRoutes.tryEndProjectRoute, { params });
    const say = ({ says }: typeof tried): void => {
      for (const line of says) io.out(safe(line));
    };
    if (isTrial === true) return give(context, tried, say);
    if (!context.json) say(tried);
    const why = reason ?? (io.isTerminal ? await io.ask('Why? ') : '');
    if (why.trim() === '')
      throw new Misuse('It takes a reason: --reason "…". It stands beside it in the record.');
    const name =
      typed ?? (io.isTerminal ? await io.ask(`Type ${project} to end it for good: `) : '');
    if (name === '') throw new Misuse(`It takes its name once more: --typed ${project}`);
    const ended = await context.client.call(lifeRoutes.endProjectRoute, {
      params,
      body: { typed: name, reason: why },
    });
    give(context, ended, () => io.out(`${project} has ended. Its history stays to be read.`));
  },
});
