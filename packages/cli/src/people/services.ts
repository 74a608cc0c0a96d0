import { serviceRoutes } from '@vaquero/contracts';
import { scopeInWords } from '@vaquero/core';
import { command, give } from '../command.ts';
import { safe, table, when } from '../output.ts';

/** Lists the services of a project, a line for each of their tokens. */
export const services = command({
  name: 'services',
  says: 'members of a project that are programs, and their tokens',
  examples: ['services timetable'],
  takes: (bare) => bare.argument('<project>', 'a project'),
  run: async (context, [project]) => {
    const { io } = context;
    const reply = await context.client.call(serviceRoutes.listServicesRoute, {
      params: { project },
    });
    give(context, reply, ({ services: all }) => {
      if (all.length === 0)
        return io.out(`No service yet. Make one: vaquero make-service ${project} NAME`);
      for (const { name, shownAs, role, tokens } of all) {
        io.out(`${name}, ${safe(shownAs)}: ${role ?? 'no role'}`);
        const rows = tokens.map((token) => [
          token.id,
          safe(token.name),
          scopeInWords(token),
          when(token.expiresAt),
          token.lastUsedAt === null ? 'never' : when(token.lastUsedAt),
        ]);
        io.out(
          rows.length === 0
            ? 'No token.'
            : table(io, ['id', 'token', 'opens', 'until', 'last used'], rows, 2),
        );
      }
    });
  },
});
