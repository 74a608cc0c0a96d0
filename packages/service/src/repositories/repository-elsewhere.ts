import type { ApiConfig } from '../config.ts';
import { OutsideFailure, refused } from '../refused.ts';
import { mostMemoryBytes, tryGit } from './git.ts';
import { insideRoots } from './inside-roots.ts';
import { reach, shownPlace } from './reach.ts';

/** What stands at a place: its branches, newest information straight from Git. */
export interface Elsewhere {
  readonly place: string;
  readonly branches: readonly string[];
}

/**
 * Looks at a repository elsewhere before it is connected.
 * Refuses: repository-not-found, repository-denied, and as `reach`.
 */
export async function lookAt(
  config: ApiConfig,
  source:
    | { readonly kind: 'http'; readonly url: string }
    | { readonly kind: 'path'; readonly path: string },
): Promise<Elsewhere> {
  const { place, args } =
    source.kind === 'path'
      ? { place: await insideRoots(source.path, config), args: [] }
      : await reach(config, source.url);
  const end = await tryGit([...args, 'ls-remote', '--heads', '--', place], {
    timeoutMs: 20_000,
    mostMemoryBytes: mostMemoryBytes.list,
  });
  if (!end.ok) refuseBy(place, end.stderr);
  const branches = end.stdout.split('\n').flatMap((row) => {
    const name = row.split('\t')[1];
    return name === undefined ? [] : [name.replace('refs/heads/', '')];
  });
  return { place, branches };
}

/**
 * Brings the mirror of a repository elsewhere up to date: its branches and tags, nothing else. The place is judged anew
 * each time. Refuses as `lookAt`.
 */
export async function mirror(config: ApiConfig, directory: string, from: string): Promise<void> {
  const { place, args } = await reach(config, from);
  const fetch = [
    'fetch',
    '--quiet',
    '--prune',
    '--no-tags',
    '--no-auto-gc',
    '--no-write-fetch-head',
    '--',
    place,
    '+refs/heads/*:refs/heads/*',
    '+refs/tags/*:refs/tags/*',
  ];
  const end = await tryGit([...args, ...fetch], {
    cwd: directory,
    timeoutMs: 300_000,
    mostMemoryBytes: mostMemoryBytes.fetch,
  });
  if (end.ok) return;
  // What came and could not be kept is of our own side; that is for the operator to read.
  if (/fsck|unpack|index-pack|No space left|pack/i.test(end.stderr.replaceAll(place, '')))
    throw new OutsideFailure(
      'git',
      `fetch: ${end.stderr.replaceAll(place, shownPlace(place)).trim().slice(0, 500)}`,
    );
  refuseBy(place, end.stderr);
}

/**
 * Git tells these apart by its words only; LC_ALL=C keeps them stable (http.c, transport.c, remote-curl.c).
 * The place itself is taken out first: its name may hold any of them.
 */
function refuseBy(place: string, said: string): never {
  const words = said.replaceAll(place, '');
  const shown = shownPlace(place);
  if (
    /Authentication failed|could not read Username|terminal prompts disabled|returned error: 40[13]|Permission denied|dubious ownership/i.test(
      words,
    )
  ) {
    refused({ code: 'repository-denied', place: shown });
  }
  if (
    /not found|does not exist|does not appear to be a git repository|returned error: 404/i.test(
      words,
    )
  ) {
    refused({ code: 'repository-not-found', place: shown });
  }
  // Closed, silent or something else altogether: who names ports of hosts is not told which of them are open.
  return refused({
    code: 'repository-unreachable',
    place: shown,
    why: 'no Git repository answers there',
  });
}
