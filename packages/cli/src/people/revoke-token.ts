import { peopleRoutes } from '@vaquero/contracts';
import { command } from '../command.ts';

/** Takes a token back. */
export const revokeToken = command({
  name: 'revoke-token',
  says: 'take a token back',
  examples: ['revoke-token 7'],
  takes: (bare) => bare.argument('<id>', 'as vaquero tokens shows it'),
  run: async (context, [id]) => {
    await context.client.call(peopleRoutes.revokeTokenRoute, { params: { token: id } });
    context.io.err(`Token ${id} is taken back.`);
  },
});
