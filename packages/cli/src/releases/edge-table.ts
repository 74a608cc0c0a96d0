import type { EdgeSeen } from '@vaquero/contracts';
import type { Io } from '../io.ts';
import { safe, table, tone, when } from '../output.ts';

/** The table of edges: whether each answers visitors with all there is to serve. */
export function showEdges(io: Io, edges: readonly EdgeSeen[]): void {
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

function stateOf(io: Io, { present, current, heardAt }: EdgeSeen): string {
  if (heardAt === null) return tone(io, 'quiet', 'never seen');
  if (!present) return tone(io, 'warn', 'silent');
  return current ? tone(io, 'good', 'serves all') : tone(io, 'warn', 'behind');
}
