import { edgeRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showEdges } from './edge-table.ts';

/** Takes an edge's token back: moves wait for it and name it no more. */
export const dropEdge = command({
  name: 'drop-edge',
  says: 'take a silent edge’s token back',
  examples: ['drop-edge lune-quay'],
  takes: (bare) => bare.argument('<name>', 'the edge'),
  run: async (context, [name]) => {
    await context.client.call(edgeRoutes.dropEdgeRoute, { params: { edge: name } });
    give(context, await context.client.call(edgeRoutes.listEdgesRoute, {}), ({ edges: left }) =>
      showEdges(context.io, left),
    );
  },
});
