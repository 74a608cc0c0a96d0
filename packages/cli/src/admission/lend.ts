import { admissionRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';

/** Lends an environment to whoever has a link, or closes that. */
export const lend = command({
  name: 'lend',
  says: 'a link that opens an environment to whoever has it',
  examples: ['lend timetable pr-12', 'lend timetable pr-12 --close'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<environment>', 'an environment whose rule says admits: link')
      .option('--close', 'what was lent opens nothing any more'),
  run: async (context, [project, environment], { close }) => {
    const { io, client } = context;
    const params = { project, environment };
    if (close === true) {
      await client.call(admissionRoutes.closeLinkRoute, { params });
      return give(context, { environment, lent: false }, () =>
        io.out(`No link opens ${environment} any more.`),
      );
    }
    const reply = await client.call(admissionRoutes.lendRoute, { params });
    give(context, reply, ({ address }) => {
      io.out(address);
      io.err(
        `Whoever has it sees ${environment}. It is shown this once; lent anew, this one is closed.`,
      );
    });
  },
});
