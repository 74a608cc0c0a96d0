import { type DeployVisits, visitRoutes } from '@vaquero/contracts';
import { rateInWords, ratesOf, shareInWords } from '@vaquero/core';
import { command, give } from '../command.ts';
import { environmentOf } from '../environments/environment-of.ts';
import { lasting, safe, table, tone, when } from '../output.ts';

const columns = [
  'deploy',
  'build',
  'since',
  'live for',
  'requests',
  'rate',
  'missed',
  'failed',
  'slow',
];

/** What visitors ask of what is live, beside the deploy before, and what they do not find. */
export const visits = command({
  name: 'visits',
  says: 'what visitors ask for, and what they do not find',
  examples: ['visits timetable', 'visits timetable staging'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('[environment]', 'an environment; the top one otherwise'),
  run: async (context, [project, named]) => {
    const { io } = context;
    const environment = named ?? (await environmentOf(context, project, named)).target.name;
    const reply = await context.client.call(visitRoutes.showVisitsRoute, {
      params: { project, environment },
    });
    give(context, reply, ({ live, before, misses, minutes }) => {
      if (live === null) return io.out(`${environment} has served nothing yet.`);
      const hour = minutes.reduce((sum, { requests }) => sum + requests, 0);
      io.out(`${environment}: ${hour} requests in the last hour`);
      io.out(table(io, columns, (before === null ? [live] : [live, before]).map(rowOf), 2));
      if (misses.length === 0) return io.out('Every path that was asked for is there.');
      io.out('not found:');
      for (const { path, times, answeredBefore } of misses) {
        const note = answeredBefore ? tone(io, 'bad', '  the deploy before answered it') : '';
        io.out(`  ${String(times).padStart(5)}  ${safe(path)}${note}`);
      }
    });
  },
});

function rowOf(visits: DeployVisits): string[] {
  const { deploy, build, from, liveForMs } = visits;
  return [String(deploy), String(build), when(from), lasting(liveForMs), ...figuresOf(visits)];
}

function figuresOf(visits: DeployVisits): string[] {
  const { perMinute, missedShare, failedShare, slowShare } = ratesOf(visits, visits.liveForMs);
  const shares = [missedShare, failedShare, slowShare].map(shareInWords);
  return [String(visits.requests), rateInWords(perMinute), ...shares];
}
