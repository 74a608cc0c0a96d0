import { environmentRoutes } from '@vaquero/contracts';
import { command, confirm, give } from '../command.ts';
import { environmentOf } from '../environments/environment-of.ts';
import { safe, when } from '../output.ts';

/** Lifts the hold of an environment. */
export const liftHold = command({
  name: 'lift-hold',
  says: 'let things go live again after a roll back',
  examples: ['lift-hold timetable', 'lift-hold timetable staging --yes'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('[environment]', 'an environment; the top one otherwise')
      .option('--yes', 'do not ask'),
  run: async (context, [project, named]) => {
    const { io } = context;
    const { target } = await environmentOf(context, project, named);
    const { name: environment, hold, acceptsFrom, isOnWord, waits, generation } = target;
    if (hold !== null)
      io.err(
        `${environment} is held since ${when(hold.since)} by ${hold.by}: “${safe(hold.reason)}”.`,
      );
    if (hold !== null && !isOnWord && waits.kind === 'build')
      io.err(`Build ${waits.build} goes live by itself once the hold is lifted.`);
    await confirm(context, `Lift the hold of ${environment}?`);
    const reply = await context.client.call(environmentRoutes.liftHoldRoute, {
      params: { project, environment },
      body: { generation },
    });
    give(context, reply, () =>
      io.out(
        `The hold of ${environment} is lifted. ${!isOnWord ? 'New commits go live again.' : acceptsFrom === null ? 'It may be let in to again.' : 'It may be promoted to again.'}`,
      ),
    );
  },
});
