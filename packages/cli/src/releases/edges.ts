import { type EdgeSeen, edgeRoutes } from '@vaquero/contracts';
import { type Context, give } from '../command.ts';
import { safe, table, tone, when } from '../output.ts';

/** Lists the edges: whether each answers visitors with all there is to serve. */
export async function listEdges(context: Context): Promise<void> {
  give(context, await context.client.call(edgeRoutes.listEdgesRoute, {}), ({ edges }) =>
    show(context, edges),
  );
}

/** Makes an edge known and writes its token, once. */
export async function addEdge(context: Context, name: string): Promise<void> {
  const reply = await context.client.call(edgeRoutes.addEdgeRoute, { body: { name } });
  give(context, reply, ({ token }) => {
    context.io.out(token);
    context.io.err(
      `This is the token of ${name}; it is not shown again. Give it to the edge as VAQUERO_EDGE_TOKEN, with VAQUERO_API and VAQUERO_STORE=elsewhere.`,
    );
  });
}

/** Takes an edge's token back: moves wait for it and name it no more. */
export async function dropEdge(context: Context, name: string): Promise<void> {
  await context.client.call(edgeRoutes.dropEdgeRoute, { params: { edge: name } });
  await listEdges(context);
}

function show({ io }: Context, edges: readonly EdgeSeen[]): void {
  if (edges.length === 0) {
    io.out('No edge is known. Make one known with: vaquero add-edge NAME');
    return;
  }
  io.out(
    table(
      io,
      ['edge', 'state', 'confirmed up to entry', 'heard of'],
      edges.map((one) => [
        safe(one.name),
        stateOf(io, one),
        one.revision.toLocaleString('en'),
        one.heardAt === null ? 'never' : when(one.heardAt),
      ]),
      1,
    ),
  );
}

function stateOf(io: Context['io'], { present, current, heardAt }: EdgeSeen): string {
  if (heardAt === null) return tone(io, 'quiet', 'never seen');
  if (!present) return tone(io, 'warn', 'silent');
  return current ? tone(io, 'good', 'serves all') : tone(io, 'warn', 'behind');
}
