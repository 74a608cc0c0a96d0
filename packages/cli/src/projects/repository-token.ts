import { credentialRoutes } from '@vaquero/contracts';
import { command, give, Misuse } from '../command.ts';
import { safe, when } from '../output.ts';

/** Sets the token that a private repository is read with, or takes it back. */
export const repositoryToken = command({
  name: 'repository-token',
  says: 'what a private repository is read with; it is asked for',
  examples: [
    'repository-token timetable',
    'repository-token tides --user bot < token.txt',
    'repository-token timetable --take-back',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .option('--user <name>', 'the name that goes with it', 'git')
      .option('--take-back', 'it is read without one from now on'),
  run: async (context, [project], { user, takeBack }) => {
    const params = { project };
    if (takeBack === true) {
      await context.client.call(credentialRoutes.dropCredentialRoute, { params });
      context.io.err(`The repository of ${project} is read without a token from now on.`);
      return;
    }
    const secret = (await context.io.value('Token: ', true)).trim();
    if (secret === '') throw new Misuse('A token is needed. To take it back: --take-back.');
    const set = await context.client.call(credentialRoutes.setCredentialRoute, {
      params,
      body: { user, secret },
    });
    give(context, set, (seen) =>
      context.io.out(
        `The repository of ${project} is read as ${safe(seen.user)}, set by ${safe(seen.by)}, ${when(seen.setAt)}.`,
      ),
    );
  },
});
