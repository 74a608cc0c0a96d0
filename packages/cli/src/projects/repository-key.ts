import { credentialRoutes } from '@vaquero/contracts';
import { type Context, command, give, Misuse } from '../command.ts';
import { safe, when } from '../output.ts';
import { askForKey, type ConfirmedKey, sayKey } from './ask-for-key.ts';

/** Makes the key that a repository is read with over SSH; on a terminal it is confirmed, tried and set at once. */
export const repositoryKey = command({
  name: 'repository-key',
  says: 'make or set the key that a repository is read with over SSH',
  examples: [
    'repository-key crew-rota',
    'repository-key --url git@git.example:rota.git',
    'repository-key tides --key 01… --host-key SHA256:…',
  ],
  takes: (bare) =>
    bare
      .argument('[project]', 'a project; left out: for one that is to be made')
      .option('--url <address>', 'where that one will lie: ssh://user@host/path')
      .option('--key <id>', 'set this one, which was made before')
      .option('--host-key <fingerprint>', 'what its host shows, confirmed'),
  run: async (context, [project], { url, key, hostKey }) => {
    if ((project === undefined) === (url === undefined))
      throw new Misuse('Name a project; or --url, for one that is to be made.');
    if ((key === undefined) !== (hostKey === undefined))
      throw new Misuse('--key and --host-key go together.');
    if (project === undefined) return forAddress(context, url ?? '');
    if (key !== undefined && hostKey !== undefined) return set(context, project, { key, hostKey });
    const made = await context.client.call(credentialRoutes.makeProjectKeyRoute, {
      params: { project },
    });
    if (context.io.isTerminal && !context.json)
      return set(context, project, await askForKey(context, made));
    give(context, made, (seen) => {
      sayKey(context, seen);
      context.io.err(
        `Then: vaquero repository-key ${project} --key ${seen.key} --host-key FINGERPRINT`,
      );
    });
  },
});

async function forAddress(context: Context, url: string): Promise<void> {
  const made = await context.client.call(credentialRoutes.makeKeyRoute, { body: { url } });
  give(context, made, (seen) => {
    sayKey(context, seen);
    context.io.err(
      `Then: vaquero make PROJECT --url ${url} --key ${seen.key} --host-key FINGERPRINT`,
    );
  });
}

async function set(context: Context, project: string, body: ConfirmedKey): Promise<void> {
  const seen = await context.client.call(credentialRoutes.confirmKeyRoute, {
    params: { project },
    body,
  });
  give(context, seen, ({ user, by, setAt }) =>
    context.io.out(
      `The repository of ${project} is read over SSH as ${safe(user)}, with a key set by ${safe(by)}, ${when(setAt)}.`,
    ),
  );
}
