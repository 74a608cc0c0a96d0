import {
  CallRefused,
  credentialRoutes,
  type ProjectTrial,
  projectRoutes,
} from '@vaquero/contracts';
import { readSshAddress } from '@vaquero/core';
import { type Context, NotDone } from '../command.ts';
import { safe } from '../output.ts';
import { askForFolder, saySight } from './ask-for-folder.ts';
import { askForKey } from './ask-for-key.ts';
import { askForMap } from './ask-for-map.ts';

type Kind = 'hosted' | 'http' | 'path' | 'shared';

/** What a project is made of, as the service takes it. */
export interface Wanted {
  readonly name: string;
  readonly branch: string;
  readonly folder: string;
  readonly repository:
    | { readonly kind: 'hosted' }
    | {
        readonly kind: 'http';
        readonly url: string;
        readonly credential?: { readonly user: string; readonly secret: string };
      }
    | { readonly kind: 'ssh'; readonly url: string; readonly key: string; readonly hostKey: string }
    | { readonly kind: 'path'; readonly path: string }
    | { readonly kind: 'shared'; readonly project: string };
  readonly recipe: string | null;
  /** Null for the usual one. */
  readonly map: string | null;
  readonly begin: 'now' | 'next-push';
}

/**
 * Asks for a project, each thing once and what is needed first: its name is tried while it is typed, its repository
 * is read before it is taken. Nothing is made. Throws Misuse without a terminal, NotDone where somebody breaks off.
 */
export async function askForProject(context: Context): Promise<Wanted> {
  const { io } = context;
  const name = await io.line('What is it called?', {
    fault: async (typed) => {
      const { fault, free } = await tried(context, typed, null);
      if (typed === '') return 'A name of letters, digits and hyphens.';
      return fault === null
        ? null
        : `${fault}${free.length > 0 ? ` Free: ${free.join(', ')}.` : ''}`;
    },
  });
  const { addresses } = await tried(context, name, null);
  for (const { environment, address } of addresses) io.err(`  ${environment} at ${address}`);
  const { repository, found } = await askForRepository(context, name);
  const branches = found?.branches ?? [];
  const first = found?.first ?? (branches.includes('main') ? 'main' : (branches[0] ?? 'main'));
  const branch =
    branches.length > 1
      ? await io.choose(
          'Its own branch: what staging follows',
          [first, ...branches.filter((one) => one !== first)].map((one) => ({
            value: one,
            says: one,
          })),
        )
      : await io.line('Its own branch: what staging follows', { initially: first });
  const seen =
    found === null || branch === found.sight?.branch
      ? found
      : (await tried(context, name, repository, branch)).repository;
  const { folder, recipe } = await askForFolder(context, seen);
  const map = await askForMap(context, name, branch);
  const begin =
    repository.kind !== 'hosted'
      ? await io.choose<Wanted['begin']>('What is built first?', [
          { value: 'now', says: 'its newest commit, now' },
          { value: 'next-push', says: 'nothing before the next push' },
        ])
      : 'now';
  const sure = await io.choose(
    `Make ${name}, of ${safe(branch)}${folder === '' ? '' : `, folder ${safe(folder)}`}?`,
    [
      { value: true, says: 'Make it' },
      { value: false, says: 'Leave it' },
    ],
  );
  if (!sure) throw new NotDone('Nothing was made.');
  return { name, branch, folder, repository, recipe, map, begin };
}

interface Chosen {
  readonly repository: Wanted['repository'];
  /** What is at it; null where there is nothing to read. */
  readonly found: ProjectTrial['repository'];
}

/** Asks until a repository can be read; which one is asked anew, when it cannot. */
async function askForRepository(context: Context, name: string): Promise<Chosen> {
  const { io } = context;
  const kind = await io.choose<Kind>('Where is its repository?', [
    { value: 'hosted', says: 'hosted here, made empty' },
    { value: 'http', says: 'at an address' },
    { value: 'path', says: 'in a folder that the operator opened' },
    { value: 'shared', says: 'that of another project' },
  ]);
  const repository = await repositoryOf(context, kind);
  if (repository.kind === 'hosted') return { repository, found: null };
  io.err('Reading it …');
  try {
    const { repository: found } = await tried(context, name, repository);
    const { length } = found?.branches ?? [];
    io.err(`It can be read: ${length} ${length === 1 ? 'branch' : 'branches'}.`);
    saySight(io, found);
    return { repository, found };
  } catch (error) {
    if (!(error instanceof CallRefused)) throw error;
    io.err(`${error.problem.detail}\n${error.problem.next}`);
    return askForRepository(context, name);
  }
}

async function repositoryOf(context: Context, kind: Kind): Promise<Wanted['repository']> {
  const { io } = context;
  if (kind === 'hosted') return { kind };
  if (kind === 'path') return { kind, path: await io.line('Its folder', { fault: isThere }) };
  if (kind === 'shared')
    return { kind, project: await io.line('Which project', { fault: isThere }) };
  const url = await io.line('Its address, as https://… or git@host:path', { fault: isAddress });
  if (readSshAddress(url) !== undefined) {
    const made = await context.client.call(credentialRoutes.makeKeyRoute, { body: { url } });
    return { kind: 'ssh', url, ...(await askForKey(context, made)) };
  }
  const isPrivate = await io.choose('Who may read it?', [
    { value: false, says: 'anybody: no token is needed' },
    { value: true, says: 'it is private: a token is needed' },
  ]);
  if (!isPrivate) return { kind, url };
  const user = await io.line('The name that goes with the token', { initially: 'git' });
  const secret = await io.line('The token; it is kept sealed', { isSecret: true, fault: isThere });
  return { kind, url, credential: { user, secret } };
}

async function isThere(typed: string): Promise<string | null> {
  return typed.trim() === '' ? 'Something is needed here.' : null;
}

async function isAddress(typed: string): Promise<string | null> {
  return (URL.canParse(typed) && /^https?:/.test(typed)) || readSshAddress(typed) !== undefined
    ? null
    : 'An address is as https://host/path, or over SSH as ssh://user@host/path.';
}

function tried(
  { client }: Context,
  name: string,
  repository: Wanted['repository'] | null,
  branch?: string,
): Promise<ProjectTrial> {
  return client.call(projectRoutes.tryProjectRoute, { body: { name, repository, branch } });
}
