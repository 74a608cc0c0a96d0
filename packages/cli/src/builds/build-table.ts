import type { BuildRow } from '@vaquero/contracts';
import type { Io } from '../io.ts';
import { lasting, safe, spoken, table, tone, when } from '../output.ts';
import { stateOf } from './describe-build.ts';

/** The table of builds; with what is live of each, if that was asked. */
export function buildTable(
  io: Io,
  builds: readonly BuildRow[],
  servedBy: ReadonlyMap<number, readonly string[]> | null,
): string {
  return table(
    io,
    [
      ...['build', 'state', 'commit', 'what it brings', 'queued', 'took', 'artifact'],
      ...(servedBy === null ? [] : ['live in']),
    ],
    builds.map((build) => [
      String(build.number),
      [stateOf(io, build.state), ...build.marks.map((mark) => tone(io, 'warn', mark))].join(', '),
      build.commit.id.slice(0, 12),
      [whichOf(build), safe(build.commit.subject)].filter((part) => part !== '').join(': '),
      when(build.queuedAt),
      build.reusedFrom !== null
        ? 'not run'
        : build.startedAt === null || build.endedAt === null
          ? ''
          : lasting(build.endedAt - build.startedAt),
      build.artifact === null ? '' : spoken(build.artifact.digest),
      ...(servedBy === null
        ? []
        : [tone(io, 'good', (servedBy.get(build.number) ?? []).join(', '))]),
    ]),
    3,
  );
}

/** What tells a build from the usual one of its commit: its recipe, and the pull request that it belongs to. */
function whichOf({ recipeName, pullRequest }: BuildRow): string {
  const recipe = recipeName === 'site' ? [] : [recipeName];
  return [...recipe, ...(pullRequest === null ? [] : [pullRequest.name])].join(', ');
}
