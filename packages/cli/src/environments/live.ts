import { type EnvironmentSeen, environmentRoutes } from '@vaquero/contracts';
import { command, giveFound } from '../command.ts';
import type { Io } from '../io.ts';
import { lasting, safe, spoken, table, tone, when } from '../output.ts';

const columns = [
  'project',
  'environment',
  'build',
  'artifact',
  'commit',
  'what it brought',
  'since',
  'by',
  'state',
];

/** What is live now, everywhere or in one project: the first question of the desk. */
export const live = command({
  name: 'live',
  says: 'what is live now, everywhere',
  examples: ['live', 'live timetable'],
  takes: (bare) => bare.argument('[project]', 'only this project'),
  run: async (context, [project]) => {
    const { io } = context;
    const reply = await context.client.call(environmentRoutes.liveRoute);
    const only =
      project === undefined
        ? reply
        : { ...reply, projects: reply.projects.filter((each) => each.project === project) };
    const found = project === undefined ? 1 : only.projects.length;
    giveFound(context, only, found, ({ projects, edges, now }) => {
      if (edges.running === 0) io.out(tone(io, 'bad', 'No edge is running: nothing answers.'));
      if (found === 0) io.err(`There is no project "${project}" that you may see.`);
      else if (projects.length === 0) io.out('No project yet. Make one: vaquero make NAME');
      const rows = projects.flatMap((each) =>
        each.environments.map((environment) => row(io, each.project, environment, now)),
      );
      if (rows.length > 0) io.out(table(io, columns, rows, 5));
      for (const each of projects)
        for (const environment of each.environments)
          for (const line of remarks(io, each.project, environment)) io.out(line);
    });
  },
});

function row(
  io: Io,
  project: string,
  environment: EnvironmentSeen,
  now: number,
): readonly string[] {
  const { serves, hold } = environment;
  if (serves === null)
    return [project, environment.name, '', '', '', 'serves nothing yet', '', '', ''];
  const state =
    hold !== null
      ? tone(io, 'warn', 'held')
      : serves.confirmedAt === null
        ? tone(io, 'warn', 'unconfirmed')
        : tone(io, 'good', 'live');
  return [
    project,
    environment.name,
    String(serves.build),
    spoken(serves.artifact),
    serves.commit.slice(0, 12),
    safe(serves.subject),
    `${when(serves.committedAt)}, ${lasting(now - serves.committedAt)}`,
    serves.by,
    state,
  ];
}

function remarks(io: Io, project: string, environment: EnvironmentSeen): readonly string[] {
  const { hold, waits, serves } = environment;
  const name = `${project} ${environment.name}`;
  const lines: string[] = [];
  if (hold !== null)
    lines.push(
      tone(
        io,
        'warn',
        `${name} is held since ${when(hold.since)} by ${hold.by}: “${safe(hold.reason)}”`,
      ),
    );
  if (waits.kind === 'artifact')
    lines.push(
      `${name}: build ${waits.build} ${spoken(waits.artifact)} waits to come in: “${safe(waits.subject)}”, ${waits.commitsAhead === null ? 'the first' : `${waits.commitsAhead} ${waits.commitsAhead === 1 ? 'commit' : 'commits'} ahead`}`,
    );
  if (waits.kind === 'offer')
    lines.push(
      `${name}: build ${waits.build} ${spoken(waits.artifact)} passed and waits for a word: “${safe(waits.subject)}”. Let it in: vaquero let-in ${name}`,
    );
  if (waits.kind === 'build')
    lines.push(
      waits.state === 'awaited'
        ? `${name}: build ${waits.build} passed, and enters once ${environment.acceptsFrom} has served it: “${safe(waits.subject)}”`
        : `${name}: build ${waits.build} is ${waits.state}: “${safe(waits.subject)}”`,
    );
  if (serves !== null && (environment.commitsBehind ?? 0) > 0)
    lines.push(
      `${name} is ${environment.commitsBehind} ${environment.commitsBehind === 1 ? 'commit' : 'commits'} behind its branch`,
    );
  return lines;
}
