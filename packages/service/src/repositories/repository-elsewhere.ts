import type { ApiConfig } from '../base/config.ts';
import { OutsideFailure, refused } from '../base/refused.ts';
import { mostMemoryBytes, tryGit } from './git.ts';
import { insideRoots } from './inside-roots.ts';
import { type Credential, type Reach, shownPlace, withReach } from './reach.ts';

/** What stands at a place: its branches, newest information straight from Git. */
export interface Elsewhere {
  readonly place: string;
  readonly branches: readonly string[];
  /** Where each of them stands. */
  readonly heads: ReadonlyMap<string, string>;
  /** The branch that clones of it stand on; null where it says none. */
  readonly first: string | null;
}

/**
 * Looks at a repository elsewhere before it is connected.
 * Refuses: repository-not-found, repository-denied, and as `reach`.
 */
export async function lookAt(
  config: ApiConfig,
  source:
    | { readonly kind: 'http' | 'ssh'; readonly url: string }
    | { readonly kind: 'path'; readonly path: string },
  credential: Credential | null = null,
): Promise<Elsewhere> {
  if (source.kind === 'path')
    return listed({ place: await insideRoots(source.path, config), args: [], extra: {} });
  return await withReach(config, source.url, credential, listed);
}

async function listed({ place, args, extra }: Reach): Promise<Elsewhere> {
  const end = await tryGit(
    [...args, 'ls-remote', '--symref', '--', place, 'HEAD', 'refs/heads/*'],
    {
      timeoutMs: 20_000,
      extra,
      mostMemoryBytes: mostMemoryBytes.list,
    },
  );
  if (!end.ok) refuseBy(place, end.stderr);
  const rows = end.stdout.split('\n');
  const heads = new Map(
    rows.flatMap((row) => {
      const [, commit = '', branch] = /^([0-9a-f]+)\trefs\/heads\/(.+)$/.exec(row) ?? [];
      return branch === undefined ? [] : [[branch, commit] as const];
    }),
  );
  const first = rows.flatMap((row) => /^ref: refs\/heads\/(.+)\tHEAD$/.exec(row)?.[1] ?? []);
  return { place, branches: [...heads.keys()], heads, first: first[0] ?? null };
}

/** More refs than these are fetched all at once. */
const mostNamed = 100;

/**
 * Brings the mirror of a repository elsewhere up to date: its branches and tags, nothing else. The refs are listed first,
 * and only what moved is fetched: mostly nothing. The place is judged anew each time. Refuses as `lookAt`.
 */
export async function mirror(
  config: ApiConfig,
  directory: string,
  from: string,
  credential: Credential | null = null,
): Promise<void> {
  await withReach(config, from, credential, (way) => mirrorFrom(directory, way));
}

async function mirrorFrom(directory: string, way: Reach): Promise<void> {
  const { place, args, extra } = way;
  const listed = await tryGit([...args, 'ls-remote', '--heads', '--tags', '--refs', '--', place], {
    timeoutMs: 20_000,
    extra,
    mostMemoryBytes: mostMemoryBytes.list,
  });
  if (!listed.ok) refuseBy(place, listed.stderr);
  const there = new Map(
    listed.stdout.split('\n').flatMap((row) => {
      const [commit, ref] = row.split('\t');
      return commit === undefined || ref === undefined ? [] : [[ref, commit] as const];
    }),
  );
  const here = await ownRefs(directory);
  const moved = [...there].flatMap(([ref, commit]) => (here.get(ref) === commit ? [] : [ref]));
  const gone = [...here.keys()].filter((ref) => !there.has(ref));
  if (moved.length + gone.length === 0) return;
  if (moved.length > 0) await fetchInto(directory, way, moved);
  // A name that became a folder, or the other way round, stands in the way of what is fetched: all of it settles that.
  if (gone.length > 0) await fetchInto(directory, way, null);
}

/** Branches and tags as the mirror has them; a tag is what it names, be that a commit or not. */
async function ownRefs(directory: string): Promise<ReadonlyMap<string, string>> {
  const end = await tryGit(
    ['for-each-ref', '--format=%(objectname)%09%(refname)', 'refs/heads', 'refs/tags'],
    { cwd: directory },
  );
  if (!end.ok) throw new OutsideFailure('git', `for-each-ref: ${end.stderr.slice(0, 500)}`);
  return new Map(
    end.stdout.split('\n').flatMap((row) => {
      const [object, ref] = row.split('\t');
      return object === undefined || ref === undefined ? [] : [[ref, object] as const];
    }),
  );
}

/** Fetches some refs, or all of them and takes away those that are gone. */
async function fetchInto(
  directory: string,
  way: Reach,
  refs: readonly string[] | null,
): Promise<void> {
  const { place, args, extra } = way;
  const isNamed = refs !== null && refs.length <= mostNamed;
  const wanted = isNamed ? refs : ['refs/heads/*', 'refs/tags/*'];
  const fetch = [
    'fetch',
    '--quiet',
    ...(isNamed ? [] : ['--prune']),
    '--no-tags',
    '--no-auto-gc',
    '--no-write-fetch-head',
    '--',
    place,
    ...wanted.map((ref) => `+${ref}:${ref}`),
  ];
  const end = await tryGit([...args, ...fetch], {
    cwd: directory,
    extra,
    timeoutMs: 300_000,
    mostMemoryBytes: mostMemoryBytes.fetch,
  });
  if (end.ok) return;
  // Since it was listed a ref has gone, or another one stands where it would: all of them are fetched together.
  if (
    isNamed &&
    /couldn't find remote ref|cannot lock ref|some local refs could not be updated/i.test(
      end.stderr,
    )
  )
    return fetchInto(directory, way, null);
  const faulty = faultFound(end.stderr);
  if (faulty !== null)
    refused({
      code: 'repository-unreachable',
      place: shownPlace(place),
      why: `Git finds faults in what it holds (${faulty})`,
    });
  // What came and could not be kept is of our own side; that is for the operator to read.
  if (/fsck|unpack|index-pack|No space left|pack/i.test(end.stderr.replaceAll(place, '')))
    throw new OutsideFailure(
      'git',
      `fetch: ${end.stderr.replaceAll(place, shownPlace(place)).trim().slice(0, 500)}`,
    );
  refuseBy(place, end.stderr);
}

/** What Git finds wrong with an object that came, by the name that git-fsck(1) has for it; null where it says nothing of that. */
export function faultFound(said: string): string | null {
  return (
    /error in (?:commit|tree|tag|blob) [0-9a-f]+: ([A-Za-z]+)|object [0-9a-f]+: ([A-Za-z]+):/
      .exec(said)
      ?.slice(1)
      .find((one) => one !== undefined) ?? null
  );
}

/**
 * Git tells these apart by its words only; LC_ALL=C keeps them stable (http.c, transport.c, remote-curl.c).
 * The place itself is taken out first: its name may hold any of them.
 */
export function refuseBy(place: string, said: string): never {
  const words = said.replaceAll(place, '');
  const shown = shownPlace(place);
  if (/Host key verification failed|REMOTE HOST IDENTIFICATION/i.test(words))
    refused({ code: 'host-key-changed', place: shown });
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
