import { realpath, stat } from 'node:fs/promises';
import { isAbsolute, sep } from 'node:path';
import { refused } from '../refused.ts';
import { git, tryGit } from './git.ts';

/** What stands at a place: its branches, newest information straight from Git. */
export interface Elsewhere {
  readonly place: string;
  readonly branches: readonly string[];
}

/**
 * Looks at a repository elsewhere before it is connected. With `straight` no host may send the service on to another
 * one: for places that somebody else than an operator names.
 * Refuses: repository-not-found, repository-denied, repository-unreachable, path-not-allowed.
 */
export async function lookAt(
  source:
    | { readonly kind: 'http'; readonly url: string }
    | { readonly kind: 'path'; readonly path: string },
  roots: readonly string[],
  straight = false,
): Promise<Elsewhere> {
  const place =
    source.kind === 'path' ? await insideRoots(source.path, roots) : withoutPassword(source.url);
  const redirects = straight ? ['-c', 'http.followRedirects=false'] : [];
  const end = await tryGit([...redirects, 'ls-remote', '--heads', '--', place], {
    timeoutMs: 20_000,
  });
  if (!end.ok) refuseBy(place, end.stderr);
  const branches = end.stdout.split('\n').flatMap((row) => {
    const name = row.split('\t')[1];
    return name === undefined ? [] : [name.replace('refs/heads/', '')];
  });
  return { place, branches };
}

/** Brings the mirror of a repository elsewhere up to date: its branches and tags, nothing else. */
export async function mirror(directory: string, place: string): Promise<void> {
  await git(
    [
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
    ],
    { cwd: directory, timeoutMs: 300_000 },
  );
}

/**
 * Git tells these apart by its words only; LC_ALL=C keeps them stable (http.c, transport.c, remote-curl.c).
 * The place itself is taken out first: its name may hold any of them.
 */
function refuseBy(place: string, said: string): never {
  const words = said.replaceAll(place, '');
  if (
    /Authentication failed|could not read Username|terminal prompts disabled|returned error: 40[13]|Permission denied|dubious ownership/i.test(
      words,
    )
  ) {
    refused({ code: 'repository-denied', place });
  }
  if (
    /not found|does not exist|does not appear to be a git repository|returned error: 404/i.test(
      words,
    )
  ) {
    refused({ code: 'repository-not-found', place });
  }
  const why = /(?:fatal|error): (.*)/.exec(said)?.[1] ?? (said.trim() || 'no answer');
  return refused({
    code: 'repository-unreachable',
    place,
    why: why.slice(0, 300).replace(/\.$/, ''),
  });
}

/** The real path of a repository below a folder that the operator opened. Refuses: path-not-allowed, repository-not-found. */
export async function insideRoots(path: string, roots: readonly string[]): Promise<string> {
  const allowed = await Promise.all(roots.map((root) => realpath(root).catch(() => root)));
  if (!isAbsolute(path)) return refused({ code: 'path-not-allowed', path, roots });
  // A link inside a root must not lead out of it, so the real path is what is judged and kept.
  const real = await realpath(path).catch(() => undefined);
  const inside = (candidate: string): boolean =>
    allowed.some((root) => candidate === root || candidate.startsWith(root + sep));
  if (real === undefined)
    return inside(path)
      ? refused({ code: 'repository-not-found', place: path })
      : refused({ code: 'path-not-allowed', path, roots });
  if (!inside(real)) return refused({ code: 'path-not-allowed', path, roots });
  const there = await stat(real);
  return there.isDirectory() ? real : refused({ code: 'repository-not-found', place: path });
}

/** An address with a password in it would be kept and shown: it is refused instead. */
function withoutPassword(url: string): string {
  const parsed = new URL(url);
  if (parsed.username !== '' || parsed.password !== '') {
    refused({
      code: 'invalid-request',
      faults: [
        {
          path: 'repository.url',
          message: 'must not carry a user name or password',
          line: null,
          column: null,
        },
      ],
    });
  }
  return url;
}
