import { mapRoutes } from '@vaquero/contracts';
import { command, confirm, NotDone } from '../command.ts';
import { environmentOf } from './environment-of.ts';

/** Ends environments of families. */
export const end = command({
  name: 'end',
  says: 'end environments of a family; a new commit brings one back',
  examples: ['end timetable pr-12', 'end timetable pr-12 pr-14 try-quay-map'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<environments...>', 'the environments')
      .option('--yes', 'do not ask'),
  run: async (context, [project, named]) => {
    const names = [...new Set(named)];
    const [first] = names;
    if (first === undefined) throw new NotDone('No environment is named.');
    const { target, all } = await environmentOf(context, project, first);
    // All are looked for before one is ended.
    const absent = names.filter((name) => !all.some((one) => one.name === name));
    if (absent.length > 0) throw new NotDone(`${project} has no environment ${absent.join(', ')}.`);
    await confirm(
      context,
      names.length === 1
        ? `End ${target.name}? ${target.address} answers nothing then.`
        : `End ${names.join(', ')}? Their addresses answer nothing then.`,
    );
    for (const environment of names) {
      await context.client.call(mapRoutes.endEnvironmentRoute, {
        params: { project, environment },
      });
      context.io.err(`${environment} has ended. Its history and its artifacts stay.`);
    }
  },
});
