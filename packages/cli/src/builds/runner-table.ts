import type { RunnerSeen } from '@vaquero/contracts';
import type { Io } from '../io.ts';
import { safe, table, tone, when } from '../output.ts';

/** The table of runners: what they are labelled, what they do, and since when they are silent. */
export function showRunners(io: Io, runners: readonly RunnerSeen[]): void {
  if (runners.length === 0) {
    io.out('No runner is known. Make one known with: vaquero add-runner NAME');
    return;
  }
  io.out(
    table(
      io,
      ['runner', 'builds', 'state', 'labels', 'heard of'],
      runners.map((one) => [
        safe(one.name),
        `${one.building} of ${one.slots}`,
        stateOf(io, one),
        one.labels.join(', ') || 'none',
        one.heardAt === null ? 'never' : when(one.heardAt),
      ]),
      3,
    ),
  );
}

function stateOf(io: Io, { present, draining, building, heardAt }: RunnerSeen): string {
  if (heardAt === null) return tone(io, 'quiet', 'never seen');
  if (!present) return tone(io, 'warn', 'silent');
  if (draining) return building > 0 ? 'draining' : 'drained';
  return tone(io, 'good', 'takes builds');
}
