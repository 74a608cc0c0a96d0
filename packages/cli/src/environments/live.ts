import { type EnvironmentSeen, environmentRoutes } from '@vaquero/contracts';
import { type Context, give } from '../command.ts';
import { type Io, lasting, safe, spoken, table, tone, when } from '../output.ts';

/** What is live now, everywhere or in one project: the first question of the desk. */
export async function showLive(context: Context, project: string | undefined): Promise<void> {
  const reply = await context.client.call(environmentRoutes.liveRoute);
  const only =
    project === undefined
      ? reply
      : { ...reply, projects: reply.projects.filter((each) => each.project === project) };
  give(context, only, ({ projects, edges, now }) => {
    const { io } = context;
    if (edges.running === 0) io.out(tone(io, 'bad', 'No edge is running: nothing answers.'));
    if (projects.length === 0)
      io.out(
        project === undefined
          ? 'No project yet.'
          : `There is no project "${project}" that you may see.`,
      );
    const rows = projects.flatMap((each) =>
      each.environments.map((environment) => row(io, each.project, environment, now)),
    );
    if (rows.length > 0)
      io.out(
        table(
          io,
          [
            'project',
            'environment',
            'build',
            'artifact',
            'commit',
            'what it brought',
            'since',
            'by',
            'state',
          ],
          rows,
          5,
        ),
      );
    for (const each of projects)
      for (const environment of each.environments)
        for (const line of remarks(io, each.project, environment)) io.out(line);
  });
}

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
  if (waits.kind === 'build')
    lines.push(`${name}: build ${waits.build} is ${waits.state}: “${safe(waits.subject)}”`);
  if (serves !== null && (environment.commitsBehind ?? 0) > 0)
    lines.push(
      `${name} is ${environment.commitsBehind} ${environment.commitsBehind === 1 ? 'commit' : 'commits'} behind its branch`,
    );
  return lines;
}
