import { edgeRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';

/** Makes an edge known and writes its token, once. */
export const addEdge = command({
  name: 'add-edge',
  says: 'make an edge known; its token is shown once',
  examples: ['add-edge lune-quay'],
  takes: (bare) => bare.argument('<name>', 'what it is to be called'),
  run: async (context, [name]) => {
    const reply = await context.client.call(edgeRoutes.addEdgeRoute, { body: { name } });
    give(context, reply, ({ token }) => {
      context.io.write(`${token}\n`);
      context.io.err(
        `This is the token of ${name}; it is not shown again. Give it to the edge as VAQUERO_EDGE_TOKEN, with VAQUERO_API and VAQUERO_STORE=elsewhere.`,
      );
    });
  },
});
