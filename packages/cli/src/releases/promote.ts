import { buildRoutes, environmentRoutes } from '@vaquero/contracts';
import { type Context, command, confirm, NotDone, whole } from '../command.ts';
import { environmentOf } from '../environments/environment-of.ts';
import { safe, spoken, when } from '../output.ts';
import { tellMove } from './tell-move.ts';
import { whatItLetsIn } from './what-it-lets-in.ts';

/** Promotes what another environment serves, after saying what will change. */
export const promote = command({
  name: 'promote',
  says: 'let an environment serve what the one below it serves',
  examples: ['promote timetable', 'promote timetable --reason "winter sailings" --yes'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .option('--to <environment>', 'which environment; the top one otherwise')
      .option('--build <number>', 'a build that the one below served before', whole)
      .option('--reason <text>', 'stands in the history')
      .option('--yes', 'do not ask'),
  run: async (context, [project], { to, build, reason }) => {
    const { io } = context;
    const { target, all } = await environmentOf(context, project, to);
    const { name: environment, serves, acceptsFrom } = target;
    if (acceptsFrom === null)
      throw new NotDone(`${environment} accepts from no environment: nothing is promoted to it.`);
    const newest = all.find(({ name }) => name === acceptsFrom)?.serves ?? null;
    const moving =
      build === undefined || newest?.build === build
        ? newest
        : await builtBefore(context, project, build);
    if (moving === null)
      throw new NotDone(`${acceptsFrom} serves nothing yet: push a commit first.`);
    io.err(
      `Promote build ${moving.build} ${spoken(moving.artifact)} “${safe(moving.subject)}” from ${acceptsFrom} to ${environment}.`,
    );
    io.err(
      serves === null
        ? `${environment} serves nothing yet.`
        : `${environment} serves build ${serves.build} ${spoken(serves.artifact)} “${safe(serves.subject)}” since ${when(serves.committedAt)}; going back to it takes one command.`,
    );
    for (const line of await whatItLetsIn(context, project, moving.build)) io.err(line);
    await confirm(context, `Promote ${moving.build} to ${environment}?`);
    context.goesOn(`The promotion may be under way: vaquero live ${project} says what came of it.`);
    const reply = await context.client.call(environmentRoutes.promoteRoute, {
      params: { project, environment },
      body: {
        from: acceptsFrom,
        artifact: moving.artifact,
        seen: { generation: target.generation, artifact: serves?.artifact ?? null },
        ...(reason === undefined ? {} : { reason }),
      },
    });
    tellMove(context, project, reply);
  },
});

/** What a build made, to be promoted though something newer has come since. */
async function builtBefore(context: Context, project: string, build: number) {
  const { artifact, commit } = await context.client.call(buildRoutes.showBuildRoute, {
    params: { project, build },
  });
  if (artifact === null) throw new NotDone(`Build ${build} made nothing that could be promoted.`);
  return { build, artifact: artifact.digest, subject: commit.subject };
}
