import { lifeRoutes } from '@vaquero/contracts';
import { command, confirm, give, Misuse } from '../command.ts';
import { safe } from '../output.ts';

/** Has a project called otherwise, after saying what that changes. */
export const rename = command({
  name: 'rename',
  says: 'call a project otherwise; its former addresses lead on',
  examples: ['rename timetable sailings --reason "ferries only"', 'rename tides quay --try'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<name>', 'its name from now on')
      .option('--reason <text>', 'stands beside it in the record')
      .option('--try', 'say what would change, and change nothing')
      .option('--yes', 'do not ask'),
  run: async (context, [project, name], { reason, try: isTrial }) => {
    const { io } = context;
    const params = { project };
    const tried = await context.client.call(lifeRoutes.tryRenameRoute, { params, body: { name } });
    const say = ({ says }: typeof tried): void => {
      if (says.length === 0) io.out('Nothing would change.');
      for (const line of says) io.out(safe(line));
    };
    if (isTrial === true) return give(context, tried, say);
    if (!context.json) say(tried);
    const why = reason ?? (io.isTerminal ? await io.ask('Why? ') : '');
    if (why.trim() === '')
      throw new Misuse('It takes a reason: --reason "…". It stands beside it in the record.');
    await confirm(context, `Call ${project} ${name} from now on?`);
    const set = await context.client.call(lifeRoutes.renameRoute, {
      params,
      body: { name, reason: why },
    });
    give(context, set, (now) => io.out(`${project} is ${now.name} from now on.`));
  },
});
