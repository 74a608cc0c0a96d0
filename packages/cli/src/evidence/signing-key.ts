import { evidenceRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';

/** Writes the public key that statements are checked with. */
export const signingKey = command({
  name: 'signing-key',
  says: 'the public key that statements are checked with',
  examples: ['signing-key > key.pem'],
  takes: (bare) => bare,
  run: async (context) => {
    give(context, await context.client.call(evidenceRoutes.signingKeyRoute), ({ pem }) =>
      context.io.write(`${pem.trimEnd()}\n`),
    );
  },
});
