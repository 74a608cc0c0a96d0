import { projectRoutes } from '@vaquero/contracts';
import { readSshAddress } from '@vaquero/core';
import { type Context, command, give, Misuse } from '../command.ts';
import { textOfFile } from '../text-of-file.ts';
import { keyFor } from './ask-for-key.ts';
import { askForProject, type Wanted } from './ask-for-project.ts';
import { showProject } from './show-project.ts';
import { keepInWorkingCopy } from './working-copy.ts';

/** Makes a project and says where it will stand and what to do first. */
export const make = command({
  name: 'make',
  says: 'make a project, on a repository hosted here or one elsewhere',
  examples: [
    'make',
    'make timetable',
    'make timetable --url https://git.example/ferry.git',
    'make rota --url git@git.example:rota.git',
    'make signage --of timetable --folder signage',
  ],
  takes: (bare) =>
    bare
      .argument('[project]', 'what it is to be called; left out: all is asked')
      .option('--url <address>', 'a repository reached by http(s) or over SSH')
      .option('--private', 'it is private: the token that it is read with is asked for')
      .option('--user <name>', 'the name that goes with the token', 'git')
      .option('--key <id>', 'over SSH: a key that repository-key has made')
      .option('--host-key <fingerprint>', 'what its host shows, confirmed')
      .option('--path <folder>', 'a repository below a folder that the operator opened')
      .option('--of <project>', 'the repository of another project')
      .option('--branch <name>', 'the branch that staging follows', 'main')
      .option('--folder <path>', 'the project’s folder in the repository', '')
      .option('--recipe <file>', 'a recipe that holds where the repository has none')
      .option('--map <file>', 'its first map, in place of the usual one')
      .option('--at-next-push', 'nothing is built before the next push')
      .option('--here', 'commands in this working copy go to this service from now on'),
  run: async (context, [name], { here, ...options }) => {
    const body =
      name === undefined ? await asked(context, options) : await said(context, name, options);
    const made = await context.client.call(projectRoutes.makeProjectRoute, { body });
    const { address } = context.client;
    const kept =
      here === true
        ? await keepInWorkingCopy(process.cwd(), { address, project: made.name })
        : undefined;
    give(context, made, (project) => showProject(context.io, project));
    if (here === true && kept === undefined)
      context.io.err('This is no working copy of Git, so nothing was noted here.');
    if (kept !== undefined)
      context.io.err(`In this working copy commands now go to ${address} (${kept}).`);
  },
});

interface Options {
  readonly url?: string | undefined;
  readonly private?: true | undefined;
  readonly user: string;
  readonly key?: string | undefined;
  readonly hostKey?: string | undefined;
  readonly path?: string | undefined;
  readonly of?: string | undefined;
  readonly branch: string;
  readonly folder: string;
  readonly recipe?: string | undefined;
  readonly map?: string | undefined;
  readonly atNextPush?: true | undefined;
}

/** Everything is asked for, or nothing. */
async function asked(
  context: Context,
  { url, private: isPrivate, path, of }: Options,
): Promise<Wanted> {
  if ([url, isPrivate, path, of].some((one) => one !== undefined))
    throw new Misuse('Name the project, too; or nothing at all, and be asked.');
  return askForProject(context);
}

/** What the options say. Throws Misuse where they contradict each other. */
async function said(context: Context, name: string, options: Options): Promise<Wanted> {
  const { url, private: isPrivate, user, path, of, branch, folder } = options;
  if ([url, path, of].filter((named) => named !== undefined).length > 1)
    throw new Misuse('Name one repository: --url, --path or --of.');
  if (isPrivate === true && url === undefined)
    throw new Misuse(
      '--private goes with --url: what is hosted here, or a folder, is read without one.',
    );
  const rest = {
    name,
    branch,
    folder,
    recipe:
      options.recipe === undefined
        ? null
        : await textOfFile(options.recipe, 'docs/recipe.md says what stands in one'),
    map:
      options.map === undefined
        ? null
        : await textOfFile(options.map, 'docs/map.md says what stands in one'),
    begin: options.atNextPush === true ? ('next-push' as const) : ('now' as const),
  };
  if (path !== undefined) return { ...rest, repository: { kind: 'path', path } };
  if (of !== undefined) return { ...rest, repository: { kind: 'shared', project: of } };
  if (url === undefined) return { ...rest, repository: { kind: 'hosted' } };
  if (readSshAddress(url) !== undefined)
    return { ...rest, repository: { kind: 'ssh', url, ...(await keyFor(context, url, options)) } };
  if (isPrivate !== true) return { ...rest, repository: { kind: 'http', url } };
  const credential = { user, secret: await context.io.value('Token: ', true) };
  return { ...rest, repository: { kind: 'http', url, credential } };
}
