import { peopleRoutes } from '@vaquero/contracts';
import { scopeInWords } from '@vaquero/core';
import { command, give } from '../command.ts';
import { table, when } from '../output.ts';

/** Lists one's living tokens. */
export const tokens = command({
  name: 'tokens',
  says: 'your living tokens',
  examples: ['tokens'],
  takes: (bare) => bare,
  run: async (context) => {
    const { io } = context;
    give(context, await context.client.call(peopleRoutes.listTokensRoute), ({ tokens: all }) => {
      if (all.length === 0) return io.out('No token yet. Make one: vaquero make-token NAME');
      const rows = all.map((token) => [
        token.id,
        token.name,
        scopeInWords(token),
        when(token.expiresAt),
        token.lastUsedAt === null ? 'never' : when(token.lastUsedAt),
      ]);
      io.out(table(io, ['id', 'name', 'opens', 'until', 'last used'], rows, 2));
    });
  },
});
