import { environmentRoutes } from '@vaquero/contracts';
import { command, confirm, NotDone, whole } from '../command.ts';
import { environmentOf } from '../environments/environment-of.ts';
import { safe, spoken, when } from '../output.ts';
import { tellMove } from './tell-move.ts';
import { whatItLetsIn } from './what-it-lets-in.ts';

/** Gives the word that a build waits for where the map asks for one. */
export const letIn = command({
  name: 'let-in',
  says: 'let in what passed and waits for a word',
  examples: ['let-in timetable staging', 'let-in timetable staging --build 31 --yes'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('[environment]', 'an environment; the top one otherwise')
      .option('--build <number>', 'which of those that wait; the newest otherwise', whole)
      .option('--reason <text>', 'stands in the history')
      .option('--yes', 'do not ask'),
  run: async (context, [project, named], { build: asked, reason }) => {
    const { io } = context;
    const { target } = await environmentOf(context, project, named);
    const { name: environment, waits, serves, generation } = target;
    const offered = waits.kind === 'offer' ? waits : null;
    const build = asked ?? offered?.build;
    if (build === undefined) throw new NotDone(`Nothing waits for a word in ${environment}.`);
    io.err(
      offered?.build === build
        ? `Let in build ${build} ${spoken(offered.artifact)} “${safe(offered.subject)}”, which passed ${when(offered.since)}.`
        : `Let in build ${build}.`,
    );
    if (serves !== null)
      io.err(
        `${environment} serves build ${serves.build} ${spoken(serves.artifact)} “${safe(serves.subject)}”.`,
      );
    if (offered?.build === build && offered.newer !== null)
      io.err(`Build ${offered.newer} is on its way, and will be offered after it.`);
    for (const line of await whatItLetsIn(context, project, build)) io.err(line);
    await confirm(context, `Let ${build} in to ${environment}?`);
    context.goesOn(`It may be going live: vaquero live ${project} says what came of it.`);
    const reply = await context.client.call(environmentRoutes.letInRoute, {
      params: { project, environment },
      body: {
        build,
        seen: { generation, artifact: serves?.artifact ?? null },
        ...(reason === undefined ? {} : { reason }),
      },
    });
    tellMove(context, project, reply);
  },
});
