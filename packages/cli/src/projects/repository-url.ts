import { projectRoutes } from '@vaquero/contracts';
import { readSshAddress } from '@vaquero/core';
import { type Context, command, confirm, give, Misuse } from '../command.ts';
import { safe } from '../output.ts';
import { keyFor } from './ask-for-key.ts';
import { showProject } from './show-project.ts';

/** Has the repository of a project read from another address, once it was tried and is the same one. */
export const repositoryUrl = command({
  name: 'repository-url',
  says: 'read its repository from another address',
  examples: [
    'repository-url tides https://git.example/tides.git',
    'repository-url rota git@git.example:rota.git',
  ],
  takes: (bare) =>
    bare
      .argument('<project>', 'a project')
      .argument('<address>', 'http(s) or SSH; or a folder that the operator opened')
      .option('--private', 'it is private: the token that it is read with is asked for')
      .option('--user <name>', 'the name that goes with the token', 'git')
      .option('--key <id>', 'over SSH: a key that repository-key has made')
      .option('--host-key <fingerprint>', 'what its host shows, confirmed')
      .option('--reason <text>', 'stands beside it in the record')
      .option('--another', 'it is meant to be another repository')
      .option('--yes', 'do not ask'),
  run: async (context, [project, address], { reason, another, ...options }) => {
    const { io, client } = context;
    const params = { project };
    const { repository: now } = await client.call(projectRoutes.showProjectRoute, { params });
    const repository = await sourceOf(context, address, options);
    const why = reason ?? (io.isTerminal ? await io.ask('Why? ') : '');
    if (why.trim() === '')
      throw new Misuse('It takes a reason: --reason "…". It stands beside it in the record.');
    if (!context.json) io.err(`It is read from ${safe(now.place)} by now.`);
    await confirm(context, `Read ${project} from ${safe(address)} from now on?`);
    const moved = await client.call(projectRoutes.moveRepositoryRoute, {
      params,
      body: { repository, reason: why, from: now.place, isAnother: another === true },
    });
    give(context, moved, (seen) => showProject(io, seen));
  },
});

interface Options {
  readonly private?: true | undefined;
  readonly user: string;
  readonly key?: string | undefined;
  readonly hostKey?: string | undefined;
}

/** The repository at an address, with what it is to be read with. Throws Misuse where that does not fit. */
async function sourceOf(context: Context, address: string, options: Options) {
  if (readSshAddress(address) !== undefined)
    return { kind: 'ssh', url: address, ...(await keyFor(context, address, options)) } as const;
  if (address.startsWith('/')) return { kind: 'path', path: address } as const;
  if (options.private !== true) return { kind: 'http', url: address } as const;
  const credential = { user: options.user, secret: await context.io.value('Token: ', true) };
  return { kind: 'http', url: address, credential } as const;
}
