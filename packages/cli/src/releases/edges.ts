import { edgeRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { showEdges } from './edge-table.ts';

/** Lists the edges. */
export const edges = command({
  name: 'edges',
  says: 'the machines that serve, and whether they are up to date',
  examples: ['edges'],
  takes: (bare) => bare,
  run: async (context) => {
    give(context, await context.client.call(edgeRoutes.listEdgesRoute, {}), ({ edges: all }) =>
      showEdges(context.io, all),
    );
  },
});
