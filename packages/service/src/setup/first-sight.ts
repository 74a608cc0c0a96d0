import { join } from 'node:path';
import { faultText, type ProjectTrial, writeRecipe } from '@vaquero/contracts';
import {
  type CommitId,
  candidateFolders,
  languageShares,
  type Recipe,
  readFolder,
} from '@vaquero/core';
import type { Deps } from '../base/deps.ts';
import type { Db } from '../database/pool.ts';
import { proposedIn } from '../recipes/resolve-recipe.ts';
import { commitFacts } from '../repositories/bare-repository.ts';
import { broughtApart, mostBytesApart } from '../repositories/brought-apart.ts';
import { isFull } from '../repositories/fetch-apart.ts';
import { type GitEnd, git, tryGit } from '../repositories/git.ts';
import { treeFilesIn } from '../repositories/git-trees.ts';
import { headSeen } from '../repositories/head-seen.ts';
import type { Credential } from '../repositories/reach.ts';
import { faultFound } from '../repositories/repository-elsewhere.ts';
import { CommitUnreadable, tooLarge } from '../repositories/tree-size.ts';
import { languageOfFile } from './language-of-file.ts';

type FirstSight = NonNullable<Seen['sight']>;

interface Place {
  readonly place: string;
  readonly credential: Credential | null;
  readonly branch: string;
  readonly folder: string;
}

/** What came of a look: what the newest commit holds, or in words why that is not told. */
type Seen = Pick<NonNullable<ProjectTrial['repository']>, 'sight' | 'unseen'>;

/**
 * Brings the newest commit of a branch elsewhere, without its history, into a folder apart, says what it holds, and keeps
 * nothing of it. Refuses as `withReach`.
 */
export async function fetchedSight(
  { config, db }: Pick<Deps, 'config' | 'db'>,
  { place, credential, branch, folder }: Place,
): Promise<Seen> {
  const ref = `refs/heads/${branch}`;
  const wanted = { place, credential, branch, what: ['--depth=1'], refs: [`+${ref}:${ref}`] };
  return broughtApart(config, wanted, async (directory, end) => {
    if (!end.ok) return { sight: null, unseen: await whyNot(directory, end) };
    const commit = (await git(['rev-parse', '--verify', ref], { cwd: directory })).trim();
    return await sightOf(db, directory, { branch, commit: commit as CommitId, folder });
  });
}

/** Why a commit could not be brought, as somebody reads it who may connect the repository all the same. */
async function whyNot(directory: string, { stderr }: GitEnd): Promise<string> {
  const what = 'Its newest commit is not shown:';
  if (stderr === 'timed out') return `${what} it was not brought within a minute.`;
  if (await isFull(join(directory, 'objects', 'pack'), mostBytesApart))
    return `${what} it holds over 512 MiB.`;
  if (faultFound(stderr) !== null)
    return `${what} Git finds faults in it, and would not read it either once it is connected.`;
  return `${what} it could not be brought this time.`;
}

/** What a commit holds: who made it, how large it is, in which languages, and how its folders would be built; or why that cannot be told. */
export async function sightOf(
  db: Db,
  directory: string,
  at: { readonly branch: string; readonly commit: CommitId; readonly folder: string },
): Promise<Seen> {
  try {
    return { sight: await readSight(db, directory, at), unseen: null };
  } catch (error) {
    if (error instanceof CommitUnreadable)
      return { sight: null, unseen: `Its newest commit is not shown: ${error.message}.` };
    throw error;
  }
}

async function readSight(
  db: Db,
  directory: string,
  {
    branch,
    commit,
    folder,
  }: { readonly branch: string; readonly commit: CommitId; readonly folder: string },
): Promise<FirstSight> {
  const [facts, entries] = await Promise.all([
    commitFacts(directory, commit),
    treeFilesIn(directory, commit, []),
  ]);
  const files = await sizesOf(directory, commit);
  const own = readFolder(folder);
  const found = candidateFolders(entries.map(({ path }) => path));
  const folders = own === undefined || found.includes(own) ? found : [own, ...found];
  return {
    branch,
    head: await headSeen(db, facts),
    files: files.length,
    bytes: files.reduce((sum, { bytes }) => sum + bytes, 0),
    languages: [...languageShares(files, await languageOfFile())],
    folders: await Promise.all(
      folders.map(async (one) => ({ folder: one, recipe: await recipeIn(directory, commit, one) })),
    ),
  };
}

/** Every file with its size. How many there are was counted before. Source: git-ls-tree(1). Throws CommitUnreadable. */
async function sizesOf(
  directory: string,
  commit: CommitId,
): Promise<readonly { path: string; bytes: number }[]> {
  const said = await tryGit(['ls-tree', '-r', '-l', '-z', '--full-tree', commit], {
    cwd: directory,
  });
  // Names may be long without being many: what does not fit is told as a tree that is too large.
  if (!said.ok) throw tooLarge('more names than can be listed');
  return said.stdout.split('\0').flatMap((row) => {
    const [, size = '', path = ''] = /^\d+ blob \S+ +(\d+)\t(.*)$/s.exec(row) ?? [];
    return path === '' ? [] : [{ path, bytes: Number(size) }];
  });
}

async function recipeIn(
  directory: string,
  commit: CommitId,
  folder: string,
): Promise<FirstSight['folders'][number]['recipe']> {
  const { file, proposal } = await proposedIn(directory, { folder }, commit);
  if (file !== null) {
    const recipe = file.read.ok ? file.read.value : null;
    const fault = file.read.ok ? null : faultText(file.read.refusal);
    return { from: 'file', text: file.text, because: [], fault, ...madeOf(recipe) };
  }
  const { recipe, because, warnings } = proposal;
  return {
    from: 'proposed',
    // Which folder it writes is known once it was built.
    text: recipe === null || recipe.serve?.site === null ? null : writeRecipe(recipe),
    because: [...because, ...warnings],
    fault: null,
    ...madeOf(recipe),
  };
}

function madeOf(recipe: Recipe | null): { steps: string[]; reads: string[] } {
  const steps = recipe?.steps ?? [];
  return {
    steps: steps.map(({ name }) => name),
    reads: [...new Set(steps.flatMap(({ given }) => given))].sort(),
  };
}
