import { mapRoutes } from '@vaquero/contracts';
import { command, give } from '../command.ts';
import { safe, tone } from '../output.ts';

/** Says where a ref goes, and which rules say so. */
export const why = command({
  name: 'why',
  says: 'where a branch, tag or pull request goes, and which rules say so',
  examples: ['why timetable main', 'why timetable pr-12', 'why timetable try/quay-map'],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<ref>', 'a branch, a tag, pr-12, or the environment of one'),
  run: async (context, [project, ref]) => {
    const { io } = context;
    const reply = await context.client.call(mapRoutes.whyRoute, {
      params: { project },
      query: { ref },
    });
    give(context, reply, ({ name, commit, why: because, answers, environments, waits }) => {
      io.out(`${safe(name)}: ${safe(because)}`);
      io.out(
        commit === null
          ? tone(io, 'warn', 'at         nothing: the repository has no such ref now')
          : `at         ${commit.slice(0, 12)}`,
      );
      for (const { rule, isMatch, why: said } of answers)
        io.out(`${isMatch ? tone(io, 'good', 'yes') : 'no '}        ${rule}: ${safe(said)}`);
      for (const { name: environment, address, serves } of environments)
        io.out(
          `goes to    ${environment}, ${serves === null ? 'which serves nothing yet' : `which serves build ${serves}`}: ${address}`,
        );
      for (const line of waits) io.out(`waits      ${safe(line)}`);
    });
  },
});
