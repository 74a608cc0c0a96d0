import { buildRoutes } from '@vaquero/contracts';
import { command, give, whole } from '../command.ts';
import { buildTable } from './build-table.ts';

/** Lists a project's newest builds. */
export const builds = command({
  name: 'builds',
  says: 'the newest builds',
  examples: ['builds timetable', 'builds timetable --limit 50'],
  takes: (bare) =>
    bare.argument('<project>', 'a project').option('--limit <count>', 'how many', whole, 15),
  run: async (context, [project], { limit }) => {
    const reply = await context.client.call(buildRoutes.listBuildsRoute, {
      params: { project },
      query: { limit },
    });
    give(context, reply, ({ builds: rows }) => {
      const { io } = context;
      if (rows.length === 0) io.out('No build yet: it waits for the first commit.');
      else io.out(buildTable(io, rows, null));
    });
  },
});
