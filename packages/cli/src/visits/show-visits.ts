import { type DeployVisits, visitRoutes } from '@vaquero/contracts';
import { rateInWords, ratesOf, shareInWords } from '@vaquero/core';
import { type Context, give } from '../command.ts';
import { lasting, safe, table, tone, when } from '../output.ts';

/** What visitors ask of what is live, beside the deploy before, and what they do not find. */
export async function showVisits(
  context: Context,
  project: string,
  environment: string,
): Promise<void> {
  const reply = await context.client.call(visitRoutes.showVisitsRoute, {
    params: { project, environment },
  });
  give(context, reply, ({ live, before, misses, minutes }) => {
    const { io } = context;
    if (live === null) return io.out(`${environment} has served nothing yet.`);
    const hour = minutes.reduce((sum, { requests }) => sum + requests, 0);
    io.out(`${environment}: ${hour} requests in the last hour`);
    const rows = before === null ? [live] : [live, before];
    // A narrow terminal has room for what is compared.
    const isNarrow = io.width < 90;
    const heads = ['requests', 'rate', 'missed', 'failed', 'slow'];
    io.out(
      isNarrow
        ? table(
            io,
            ['deploy', ...heads],
            rows.map((row) => [String(row.deploy), ...figuresOf(row)]),
            0,
          )
        : table(io, ['deploy', 'build', 'since', 'live for', ...heads], rows.map(rowOf), 2),
    );
    if (misses.length === 0) return io.out('Every path that was asked for is there.');
    io.out('not found:');
    for (const { path, times, answeredBefore } of misses) {
      const note = answeredBefore ? tone(io, 'bad', '  the deploy before answered it') : '';
      io.out(`  ${String(times).padStart(5)}  ${safe(path)}${note}`);
    }
  });
}

function rowOf(visits: DeployVisits): string[] {
  const { deploy, build, from, liveForMs } = visits;
  return [String(deploy), String(build), when(from), lasting(liveForMs), ...figuresOf(visits)];
}

function figuresOf(visits: DeployVisits): string[] {
  const { perMinute, missedShare, failedShare, slowShare } = ratesOf(visits, visits.liveForMs);
  const shares = [missedShare, failedShare, slowShare].map(shareInWords);
  return [String(visits.requests), rateInWords(perMinute), ...shares];
}
