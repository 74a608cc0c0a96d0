import { projectRoutes } from '@vaquero/contracts';
import { command, give, Misuse } from '../command.ts';
import { showProject } from './show-project.ts';
import { keepInWorkingCopy } from './working-copy.ts';

/** Makes a project and says where it will stand and what to do first. */
export const make = command({
  name: 'make',
  says: 'make a project, on a repository hosted here or one elsewhere',
  examples: [
    'make timetable',
    'make timetable --url https://git.example/ferry.git',
    'make tides --url https://git.example/t --private',
    'make signage --of timetable --folder signage',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'what it is to be called')
      .option('--url <address>', 'a repository reached by http(s)')
      .option('--private', 'it is private: the token that it is read with is asked for')
      .option('--user <name>', 'the name that goes with the token', 'git')
      .option('--path <folder>', 'a repository below a folder that the operator opened')
      .option('--of <project>', 'the repository of another project')
      .option('--branch <name>', 'the branch that staging follows', 'main')
      .option('--folder <path>', 'the project’s folder in the repository', '')
      .option('--here', 'commands in this working copy go to this service from now on'),
  run: async (
    context,
    [name],
    { url, private: isPrivate, user, path, of, branch, folder, here },
  ) => {
    if ([url, path, of].filter((named) => named !== undefined).length > 1)
      throw new Misuse('Name one repository: --url, --path or --of.');
    if (isPrivate === true && url === undefined)
      throw new Misuse(
        '--private goes with --url: what is hosted here, or a folder, is read without one.',
      );
    const credential =
      isPrivate === true ? { user, secret: await context.io.value('Token: ', true) } : undefined;
    const repository =
      url !== undefined
        ? { kind: 'http' as const, url, ...(credential === undefined ? {} : { credential }) }
        : path !== undefined
          ? { kind: 'path' as const, path }
          : of !== undefined
            ? { kind: 'shared' as const, project: of }
            : { kind: 'hosted' as const };
    const made = await context.client.call(projectRoutes.makeProjectRoute, {
      body: { name, branch, folder, repository },
    });
    const { address } = context.client;
    const kept =
      here === true
        ? await keepInWorkingCopy(process.cwd(), { address, project: name })
        : undefined;
    give(context, made, (project) => showProject(context.io, project));
    if (here === true && kept === undefined)
      context.io.err('This is no working copy of Git, so nothing was noted here.');
    if (kept !== undefined)
      context.io.err(`In this working copy commands now go to ${address} (${kept}).`);
  },
});
