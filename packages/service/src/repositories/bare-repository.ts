import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import {
  type CommitId,
  type Instant,
  type RefName,
  readCommitId,
  readRefName,
} from '@vaquero/core';
import { OutsideFailure } from '../base/refused.ts';
import { type CommitFields, mailOf, readCommit } from './commit-object.ts';
import { git, tryGit } from './git.ts';
import { staying } from './git-talk.ts';
import { requireBounded, treeFilesIn } from './git-trees.ts';
import { objectsOf } from './object-reader.ts';
import type { PushedRef } from './side-band.ts';
import { CommitUnreadable } from './tree-size.ts';

/** Where the bare repository of a repository lies: the hosted one itself, or the mirror of one elsewhere. */
export function directoryOf(stateDirectory: string, repositoryId: string): string {
  return join(stateDirectory, 'repositories', `${repositoryId}.git`);
}

/** Refs of ours that keep a commit which was built, whatever becomes of its branch. Hidden from pushes and fetches. */
const pins = 'refs/vaquero/kept';

/** Makes an empty bare repository. */
export async function makeBare(directory: string, branch: string): Promise<void> {
  await mkdir(directory, { recursive: true });
  await git(['init', '--quiet', '--bare', '--template=', `--initial-branch=${branch}`, directory]);
  const settings = [
    ['transfer.hideRefs', 'refs/vaquero'],
    ['receive.fsckObjects', 'true'],
    ['receive.maxInputSize', String(2 ** 31)],
    ['receive.autogc', 'false'],
    ['core.logAllRefUpdates', 'true'],
    ['http.receivepack', 'true'],
  ] as const;
  for (const [key, value] of settings) await git(['config', key, value], { cwd: directory });
  await keepTreesAsCommitted(directory);
}

/** The branch that clones of a repository stand on from now on. */
export async function setFirstBranch(directory: string, branch: RefName): Promise<void> {
  await git(['symbolic-ref', 'HEAD', branch], { cwd: directory });
}

/**
 * A tree is built as it was committed, byte for byte: neither may export rules take files out of the archive
 * that a runner gets, nor may line ends, encodings or filters change those in it. Source: gitattributes(5),
 * where `info/attributes` outranks what a tree says of itself.
 */
export async function keepTreesAsCommitted(directory: string): Promise<void> {
  await mkdir(join(directory, 'info'), { recursive: true });
  await writeFile(
    join(directory, 'info', 'attributes'),
    '* -export-ignore -export-subst -text !eol -ident -filter !working-tree-encoding\n',
  );
}

/** All branches, tags and heads of pull requests with the commits they stand for (an annotated tag stands for its commit). */
export async function refsOf(directory: string): Promise<ReadonlyMap<RefName, CommitId>> {
  const text = await git(
    [
      'for-each-ref',
      '--format=%(refname)%00%(objecttype)%00%(objectname)%00%(*objecttype)%00%(*objectname)',
      'refs/heads',
      'refs/tags',
      'refs/proposed',
    ],
    { cwd: directory },
  );
  const refs = new Map<RefName, CommitId>();
  for (const row of text.split('\n')) {
    const [name = '', kind, object = '', innerKind, inner = ''] = row.split('\0');
    const ref = readRefName(name);
    const commit = readCommitId(kind === 'tag' ? inner : object);
    if (ref !== undefined && commit !== undefined && (kind === 'commit' || innerKind === 'commit'))
      refs.set(ref, commit);
  }
  return refs;
}

/** Pins commits, so that nobody's force-push loses them. */
export async function pin(directory: string, commits: readonly CommitId[]): Promise<void> {
  if (commits.length === 0) return;
  // Two branches can stand on one commit; git takes each ref once a transaction.
  const updates = [...new Set(commits)].map((commit) => `update ${pins}/${commit} ${commit}\n`);
  await updateRefs(directory, `start\n${updates.join('')}commit\n`, 'commit: ok');
}

/** Sets refs that nobody else may set, all or none. */
export async function setRefs(
  directory: string,
  refs: ReadonlyMap<RefName, CommitId>,
): Promise<void> {
  if (refs.size === 0) return;
  const updates = [...refs].map(([ref, commit]) => `update ${ref} ${commit}\n`);
  await updateRefs(directory, `start\n${updates.join('')}commit\n`, 'commit: ok');
}

/** Carries out a transaction of refs. Words and answers: git-update-ref(1) under --stdin. */
const updateRefs = staying<void>(['update-ref', '--stdin'], (expected, settle) => {
  let held = '';
  return (chunk) => {
    const lines = (held + chunk.toString()).split('\n');
    held = lines.pop() ?? '';
    for (const line of lines) if (line === expected()) settle();
  };
});

/**
 * The branches that a push says it has set, as Git has them: a look at these costs no process. Null when one of
 * them is not where the push says, or was deleted: then all refs are looked at.
 */
export async function branchesSet(
  directory: string,
  commands: readonly PushedRef[],
): Promise<ReadonlyMap<RefName, CommitId> | null> {
  const objects = objectsOf(directory);
  const seen = await Promise.all(
    commands.map(async ({ name, to }) => {
      const ref = name.startsWith('refs/heads/') ? readRefName(name) : undefined;
      const found = ref === undefined ? null : await objects.info(name);
      const commit = found?.kind === 'commit' ? readCommitId(found.id) : undefined;
      return ref === undefined || commit === undefined || commit !== to
        ? null
        : ([ref, commit] as const);
    }),
  );
  const all = seen.filter((one) => one !== null);
  return all.length === commands.length ? new Map(all) : null;
}

/** What people see of a commit. */
export interface CommitFacts extends CommitFields {
  readonly id: CommitId;
}

/** A commit at the head of something, as replies name it. */
export function headOf({ id, subject, author, authorMail, at }: CommitFacts): {
  readonly commit: CommitId;
  readonly subject: string;
  readonly author: string;
  readonly authorMail: string | null;
  readonly at: Instant;
} {
  return { commit: id, subject, author, authorMail, at: at as Instant };
}

/** A message of megabytes is nobody's subject. */
const mostCommitBytes = 16 << 20;

/** Reads subject, author and commit time. Throws OutsideFailure when there is no such commit. */
export async function commitFacts(directory: string, commit: CommitId): Promise<CommitFacts> {
  const bytes = await objectsOf(directory).contents(commit, mostCommitBytes);
  if (bytes === null) throw new OutsideFailure('git', `the commit ${commit} cannot be read`);
  return { id: commit, ...readCommit(bytes) };
}

/** The names of what stands at some paths of a commit; an absent one has the name `-`. */
export async function objectsAt(
  directory: string,
  commit: CommitId,
  paths: readonly string[],
): Promise<readonly string[]> {
  const objects = objectsOf(directory);
  return Promise.all(
    paths.map(async (path) => (await objects.info(`${commit}:${path}`))?.id ?? '-'),
  );
}

/** Paths of a commit's tree below a folder, relative to it; none for a folder that is not there; at most 100,000. */
export async function pathsIn(
  directory: string,
  commit: CommitId,
  folder: string,
): Promise<readonly string[]> {
  const files = await treeFilesIn(directory, commit, folder === '' ? [] : [folder]);
  const skipped = folder === '' ? 0 : folder.length + 1;
  return files
    .slice(0, 100_000)
    .map((file) => file.path.slice(skipped))
    .filter((path) => path !== '');
}

/** Whether a commit has a folder of this name; the empty one is its root. */
export async function hasFolder(
  directory: string,
  commit: CommitId,
  folder: string,
): Promise<boolean> {
  if (folder === '') return true;
  return (await objectsOf(directory).info(`${commit}:${folder}`))?.kind === 'tree';
}

/** A small text file of a commit, undefined when it is not there or over `limitBytes`. */
export async function fileIn(
  directory: string,
  commit: CommitId,
  path: string,
  limitBytes: number,
): Promise<string | undefined> {
  const objects = objectsOf(directory);
  const found = await objects.info(`${commit}:${path}`);
  if (found?.kind !== 'blob') return undefined;
  return (await objects.contents(found.id, limitBytes))?.toString('utf8');
}

/** How many commits `to` has that `from` has not; null when it cannot be told. */
export async function commitsBetween(
  directory: string,
  from: string,
  to: string,
): Promise<number | null> {
  const end = await tryGit(['rev-list', '--count', `${from}..${to}`, '--'], { cwd: directory });
  return end.ok ? Number(end.stdout) : null;
}

/** Whether a commit is part of another one's history, or is that one. */
export async function isAncestor(directory: string, commit: string, of: string): Promise<boolean> {
  return (await tryGit(['merge-base', '--is-ancestor', commit, of], { cwd: directory })).ok;
}

/** The newest commit that two have in common; null when there is none. */
export async function forkPoint(
  directory: string,
  one: string,
  other: string,
): Promise<CommitId | null> {
  const end = await tryGit(['merge-base', one, other], { cwd: directory });
  return readCommitId(end.stdout.trim()) ?? null;
}

/** The commits that `to` has and `from` has not, newest first; twenty at most. */
export async function commitsIn(
  directory: string,
  from: string,
  to: string,
): Promise<
  readonly { id: CommitId; subject: string; author: string; authorMail: string | null }[]
> {
  const end = await tryGit(
    [
      'log',
      '-20',
      '-z',
      '--no-show-signature',
      '--format=%H%x09%ae%x09%an%x09%s',
      `${from}..${to}`,
      '--',
    ],
    { cwd: directory },
  );
  return end.stdout.split('\0').flatMap((row) => {
    const [id = '', mail = '', author = '', ...subject] = row.trim().split('\t');
    const read = readCommitId(id);
    return read === undefined
      ? []
      : [{ id: read, author, authorMail: mailOf(mail), subject: subject.join(' ') }];
  });
}

/** Files that differ between two commits below a folder, with lines added and removed (null for binary files). None for commits that hold more than a commit may. */
export async function filesBetween(
  directory: string,
  from: string,
  to: string,
  folder: string,
): Promise<readonly { path: string; added: number | null; removed: number | null }[]> {
  const where = folder === '' ? '.' : folder;
  try {
    // Git itself goes through every name there is: a commit that says it has without end would keep it for ever.
    await Promise.all([from, to].map((commit) => requireBounded(directory, commit)));
  } catch (error) {
    if (error instanceof CommitUnreadable) return [];
    throw error;
  }
  const end = await tryGit(
    ['diff', '--numstat', '-z', '--no-renames', '--no-ext-diff', from, to, '--', where],
    { cwd: directory },
  );
  if (!end.ok) return [];
  return end.stdout
    .split('\0')
    .filter((row) => row !== '')
    .slice(0, 200)
    .map((row) => {
      const [added = '', removed = '', ...path] = row.split('\t');
      return {
        path: path.join('\t'),
        added: added === '-' ? null : Number(added),
        removed: removed === '-' ? null : Number(removed),
      };
    });
}
