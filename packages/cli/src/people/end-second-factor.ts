import { secondFactorRoutes } from '@vaquero/contracts';
import { command, confirm, give } from '../command.ts';

/** Ends the second factor of somebody who lost it. */
export const endSecondFactor = command({
  name: 'end-second-factor',
  says: 'end the second factor of somebody who lost it',
  examples: ['end-second-factor noor', 'end-second-factor noor --yes'],
  takes: (bare) => bare.argument('<name>', 'a person, by name').option('--yes', 'do not ask'),
  run: async (context, [person]) => {
    context.io.err(`From then on ${person} signs in with name and password alone.`);
    await confirm(context, `End the second factor of ${person}?`);
    const reply = await context.client.call(secondFactorRoutes.endFactorOfRoute, {
      params: { person },
    });
    give(context, reply, () => context.io.out(`${person} has no second factor any more.`));
  },
});
