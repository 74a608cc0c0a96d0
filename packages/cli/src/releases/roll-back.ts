import { type EnvironmentSeen, environmentRoutes } from '@vaquero/contracts';
import { command, confirm, Misuse, NotDone, whole } from '../command.ts';
import { environmentOf } from '../environments/environment-of.ts';
import { safe, spoken } from '../output.ts';
import { tellMove } from './tell-move.ts';

/** Rolls an environment back, after saying what it undoes; it is held afterwards. */
export const rollBack = command({
  name: 'roll-back',
  says: 'serve again what was served before, and hold',
  examples: [
    'roll-back timetable --reason "nobody finds it"',
    'roll-back timetable staging --to-build 218 --yes',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('[environment]', 'an environment; the top one otherwise')
      .option('--to <deploy>', 'a deploy by its number', whole)
      .option('--to-build <build>', 'a build by its number', whole)
      .option('--reason <text>', 'stands in the history and on the hold')
      .option('--yes', 'do not ask'),
  run: async (context, [project, named], { to: deploy, toBuild: build, reason }) => {
    const { io } = context;
    if (deploy !== undefined && build !== undefined)
      throw new Misuse('Name a deploy or a build to go back to, not both.');
    const { target } = await environmentOf(context, project, named);
    const { name: environment, serves } = target;
    if (serves === null)
      throw new NotDone(`${environment} serves nothing yet: there is nothing to go back from.`);
    const to = deploy !== undefined ? { deploy } : build !== undefined ? { build } : undefined;
    io.err(
      `Roll ${environment} back from build ${serves.build} ${spoken(serves.artifact)} “${safe(serves.subject)}” to ${goalInWords(target, to)}.`,
    );
    io.err(
      `${environment} is held afterwards: nothing goes live there until somebody lifts the hold.`,
    );
    const why = reason ?? (io.isTerminal ? await io.ask('Why? ') : '');
    if (why.trim() === '')
      throw new Misuse(
        'A roll back takes a reason: --reason "…". It stands in the history and on the hold.',
      );
    await confirm(context, `Roll ${environment} back?`);
    context.goesOn(`The roll back may be under way: vaquero live ${project} says what came of it.`);
    const reply = await context.client.call(environmentRoutes.rollBackRoute, {
      params: { project, environment },
      body: {
        reason: why,
        seen: { generation: target.generation, artifact: serves.artifact },
        ...(to === undefined ? {} : { to }),
      },
    });
    tellMove(context, project, reply);
  },
});

function goalInWords(
  { wayBack }: EnvironmentSeen,
  to: { readonly deploy: number } | { readonly build: number } | undefined,
): string {
  if (to !== undefined) return 'deploy' in to ? `deploy ${to.deploy}` : `build ${to.build}`;
  if (wayBack === null) return 'an earlier deploy';
  return `build ${wayBack.build} ${spoken(wayBack.artifact)} “${safe(wayBack.subject)}”`;
}
