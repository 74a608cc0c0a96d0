import { dirname, join } from 'node:path';
import { pullRequestRoutes } from '@vaquero/contracts';
import type { Happening } from './happening.ts';
import { buildAfter, edit, git, gitAs, newestBuild, remoteOf, type Stage } from './stage.ts';

/** A branch of its own, with a commit, pushed and proposed to be merged. */
export async function propose(
  stage: Stage,
  { who, propose: title, branch, edit: change, isDraft }: Extract<Happening, { propose: string }>,
): Promise<void> {
  await git(stage, who, ['checkout', '--quiet', '-b', branch]);
  edit(stage.site, change);
  await git(stage, who, ['commit', '--quiet', '--all', '--message', title]);
  await git(stage, who, ['push', '--quiet', remoteOf(stage, who), branch]);
  await git(stage, who, ['checkout', '--quiet', 'main']);
  const before = await newestBuild(stage);
  await stage.clients[who].call(pullRequestRoutes.openPullRequestRoute, {
    params: { project: 'timetable' },
    body: { branch, title, isDraft: isDraft === true },
  });
  await buildAfter(stage, before, isDraft === true ? 'ended' : 'taken');
}

/** A branch with a commit, pushed for others to look at. */
export async function show(
  stage: Stage,
  { who, show: title, branch, edit: change }: Extract<Happening, { show: string }>,
): Promise<void> {
  await git(stage, who, ['checkout', '--quiet', '-b', branch]);
  edit(stage.site, change);
  await git(stage, who, ['commit', '--quiet', '--all', '--message', title]);
  const before = await newestBuild(stage);
  await git(stage, who, ['push', '--quiet', remoteOf(stage, who), branch]);
  await git(stage, who, ['checkout', '--quiet', 'main']);
  await buildAfter(stage, before, 'taken');
}

/** Merges what was proposed. */
export async function merge(
  stage: Stage,
  { who, merge: branch }: Extract<Happening, { merge: string }>,
): Promise<void> {
  const message = `Merge ${branch}`;
  await git(stage, who, ['merge', '--quiet', '--no-ff', '--message', message, branch]);
  const before = await newestBuild(stage);
  await git(stage, who, ['push', '--quiet', remoteOf(stage, who), 'main']);
  await buildAfter(stage, before, 'taken');
}

/** Somebody outside changes a copy of the repository; an operator opens a pull request of it. */
export async function takeUp(
  stage: Stage,
  { who, takeUp: title, author, branch, edit: change }: Extract<Happening, { takeUp: string }>,
): Promise<void> {
  const folder = join(dirname(stage.site), 'elsewhere', `${branch}-of-an-outsider`);
  await git(stage, who, ['clone', '--quiet', '--no-hardlinks', '.', folder]);
  const outsider = { folder, who: 'visitor', shownAs: author };
  await gitAs(stage, outsider, ['checkout', '--quiet', '-b', branch]);
  edit(folder, change);
  await gitAs(stage, outsider, ['commit', '--quiet', '--all', '--message', title]);
  await stage.clients[who].call(pullRequestRoutes.openPullRequestRoute, {
    params: { project: 'timetable' },
    body: { branch, title, place: folder },
  });
}
