import { environmentRoutes } from '@vaquero/contracts';
import type { z } from 'zod';
import { command, give, whole } from '../command.ts';
import { environmentOf } from '../environments/environment-of.ts';
import type { Io } from '../io.ts';
import { lasting, safe, spoken, table, tone, when } from '../output.ts';

const columns = [
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
];

type DeploySeen = z.output<typeof environmentRoutes.historyRoute.reply>['deploys'][number];

/** The history of an environment: what was live when, who put it there, and what came back. */
export const history = command({
  name: 'history',
  says: 'what was live when, by whom, and what came back',
  examples: ['history timetable', 'history timetable staging --limit 50'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('[environment]', 'an environment; the top one otherwise')
      .option('--limit <count>', 'how many deploys', whole, 20),
  run: async (context, [project, named], { limit }) => {
    const { io } = context;
    const environment = named ?? (await environmentOf(context, project, named)).target.name;
    const reply = await context.client.call(environmentRoutes.historyRoute, {
      params: { project, environment },
      query: { limit },
    });
    give(context, reply, ({ deploys, total, undone, more, endedAt }) => {
      if (deploys.length === 0) return io.out(`${environment} has served nothing yet.`);
      io.out(
        `${environment}: ${total} ${total === 1 ? 'deploy' : 'deploys'}, ${undone} undone${endedAt === null ? '' : `; ended ${when(endedAt)}`}`,
      );
      const rows = deploys.map((deploy, place) =>
        rowOf(io, deploy, place === 0 && endedAt === null),
      );
      io.out(table(io, columns, rows, 5));
      for (const line of deploys.flatMap(reasonOf)) io.out(line);
      if (more) io.out(tone(io, 'quiet', `Older ones: --limit ${limit * 2}`));
    });
  },
});

function rowOf(io: Io, deploy: DeploySeen, isLive: boolean): readonly string[] {
  return [
    String(deploy.number),
    when(deploy.committedAt),
    String(deploy.build),
    spoken(deploy.artifact),
    deploy.commit.slice(0, 12),
    safe(deploy.subject),
    deploy.undone ? tone(io, 'bad', `${deploy.kind}, undone`) : deploy.kind,
    deploy.by,
    deploy.builtInMs === null ? '' : lasting(deploy.builtInMs),
    isLive ? 'still live' : lasting(deploy.liveForMs),
  ];
}

function reasonOf({ number, reason, undoes }: DeploySeen): readonly string[] {
  if (reason === null || reason === '') return [];
  const range =
    undoes === null
      ? ''
      : ` (undoes ${undoes.first}${undoes.first === undoes.last ? '' : `–${undoes.last}`})`;
  return [`deploy ${number}: “${safe(reason)}”${range}`];
}
