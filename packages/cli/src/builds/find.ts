import { buildRoutes } from '@vaquero/contracts';
import { command, giveFound } from '../command.ts';
import { safe } from '../output.ts';
import { buildTable } from './build-table.ts';

/** Finds builds by what is known of them, and says where their artifacts are live. */
export const find = command({
  name: 'find',
  says: 'builds by number, commit, digest, brand, subject or author',
  examples: ['find timetable 4be1c02e', 'find timetable winter sailings'],
  takes: (bare) =>
    bare.argument('<project>', 'a project').argument('<text...>', 'what is known of it'),
  run: async (context, [project, words]) => {
    const text = words.join(' ');
    const reply = await context.client.call(buildRoutes.findBuildsRoute, {
      params: { project },
      query: { text },
    });
    giveFound(context, reply, reply.builds.length, ({ builds }) => {
      const { io } = context;
      const servedBy = new Map(builds.map((build) => [build.number, build.servedBy]));
      if (builds.length === 0)
        io.err(
          `No build of ${project} has “${safe(text)}” as number, commit, digest, brand, subject or author.`,
        );
      else io.out(buildTable(io, builds, servedBy));
    });
  },
});
