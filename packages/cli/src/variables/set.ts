import { variableRoutes } from '@vaquero/contracts';
import { command, give, Misuse } from '../command.ts';
import { showVariables } from './show-variables.ts';

/** Sets a variable; its value is asked for, or read from standard input, so that no shell keeps it. */
export const set = command({
  name: 'set',
  says: 'set a variable; its value is asked for',
  examples: [
    'set timetable MAP_KEY --secret',
    'set timetable LEVEL --environment staging',
    'set timetable MAP_KEY --secret < key.txt',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<name>', 'what builds know it by')
      .option('--secret', 'never shown again, masked in logs')
      .option('--environment <name>', 'only for builds that the map sends there', '')
      .option('--value <text>', 'the value, for a plain variable in a script'),
  run: async (context, [project, name], { secret, environment, value: given }) => {
    const value = given ?? (await context.io.value(`Value of ${name}: `, secret === true));
    if (value === '')
      throw new Misuse('A variable needs a value. To take one away: vaquero unset.');
    const reply = await context.client.call(variableRoutes.setVariableRoute, {
      params: { project, variable: name },
      query: { environment },
      body: { kind: secret === true ? 'secret' : 'plain', value },
    });
    give(context, reply, () => showVariables(context.io, reply));
  },
});
