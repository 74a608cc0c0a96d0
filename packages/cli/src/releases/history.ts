import { type DeploySeen, environmentRoutes } from '@vaquero/contracts';
import { type Context, give } from '../command.ts';
import { lasting, safe, spoken, table, tone, when } from '../output.ts';

/** The history of an environment: what was live when, who put it there, and what came back. */
export async function showHistory(
  context: Context,
  project: string,
  environment: string,
  limit: number,
): Promise<void> {
  const reply = await context.client.call(environmentRoutes.historyRoute, {
    params: { project, environment },
    query: { limit },
  });
  give(context, reply, ({ deploys, total, undone, more }) => {
    const { io } = context;
    if (deploys.length === 0) return io.out(`${environment} has served nothing yet.`);
    io.out(`${environment}: ${total} ${total === 1 ? 'deploy' : 'deploys'}, ${undone} undone`);
    io.out(
      table(
        io,
        [
          'deploy',
          'since',
          'build',
          'artifact',
          'commit',
          'what it brought',
          'how',
          'by',
          'built in',
          'live for',
        ],
        deploys.map((deploy, place) => [
          String(deploy.number),
          when(deploy.committedAt),
          String(deploy.build),
          spoken(deploy.artifact),
          deploy.commit.slice(0, 12),
          safe(deploy.subject),
          deploy.undone ? tone(io, 'bad', `${deploy.kind}, undone`) : deploy.kind,
          deploy.by,
          deploy.builtInMs === null ? '' : lasting(deploy.builtInMs),
          place === 0 ? 'still live' : lasting(deploy.liveForMs),
        ]),
        5,
      ),
    );
    for (const line of deploys.flatMap(reasonOf)) io.out(line);
    if (more) io.out(tone(io, 'quiet', `Older ones: --limit ${limit * 2}`));
  });
}

function reasonOf({ number, reason, undoes }: DeploySeen): readonly string[] {
  if (reason === null || reason === '') return [];
  const range =
    undoes === null
      ? ''
      : ` (undoes ${undoes.first}${undoes.first === undoes.last ? '' : `–${undoes.last}`})`;
  return [`deploy ${number}: “${safe(reason)}”${range}`];
}
