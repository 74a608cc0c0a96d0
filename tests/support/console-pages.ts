import { join } from 'node:path';
import { pullRequestRoutes } from '@vaquero/contracts';
import type { TestService } from './service.ts';
import { makeWorkingCopy, recipeOf, writesPage } from './working-copy.ts';

/** A project with something on every page: two builds that passed, one that failed, a roll back, a hold. */
export async function story(service: TestService): Promise<void> {
  const made = await service.project('timetable');
  await made.push('Winter fares', { 'vaquero.yaml': recipeOf(writesPage('one')) });
  await service.promote('timetable');
  await made.push('Search by harbour', { 'vaquero.yaml': recipeOf(writesPage('two')) });
  await service.promote('timetable');
  const fork = await makeWorkingCopy(join(service.state, 'roots', 'fork'));
  await fork.git('pull', '--quiet', made.copy.folder, 'main');
  await fork.git('checkout', '--quiet', '-b', 'dogs');
  await fork.commit('Dogs at half fare', { 'fares.txt': '1.5' });
  await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params: { project: 'timetable' },
    body: { branch: 'dogs', title: 'Dogs', place: fork.folder },
  });
  await made.push('A slip', {
    'vaquero.yaml': recipeOf("echo reading; echo 'Error: unknown harbour' >&2; exit 4"),
  });
  // One of the project's own, with a preview, that merges after what it is asked to.
  await made.copy.git('checkout', '--quiet', '-b', 'try/quay', 'HEAD~1');
  await made.copy.commit('The quay', { 'quay.txt': 'quay' });
  await made.copy.git('push', '--quiet', made.remote, 'try/quay');
  await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params: { project: 'timetable' },
    body: { branch: 'try/quay', title: 'The quay' },
  });
}

/** Every page, with what its heading says once it is read. */
export const pages = [
  ['/', /./],
  ['/p/timetable', /./],
  ['/p/timetable?at=2026-01-01T00:00:00Z', /./],
  ['/p/timetable/builds', /./],
  ['/p/timetable/builds/2', /Build 2/],
  ['/p/timetable/builds/3', /Build 3 failed/],
  ['/p/timetable/history', /changed/],
  ['/p/timetable/visits', /./],
  ['/p/timetable/visits/staging', /./],
  ['/p/timetable/settings', /is built from/],
  ['/p/timetable/settings/building', /follow/],
  ['/p/timetable/settings/values', /are given/],
  ['/p/timetable/settings/people', /may do what/],
  ['/p/timetable/settings/programs', /Programs/],
  ['/p/timetable/settings/end', /can be ended/],
  ['/p/timetable/pull-requests', /pr-1 waits/],
  ['/p/timetable/pull-requests/previews', /preview/],
  ['/p/timetable/compare/1/2', /From build 1/],
  ['/new', /What is it called/],
  ['/p/timetable/pr-1', /pr-1 waits/],
  ['/p/timetable/pr-2', /pr-2/],
  ['/p/timetable/map', /goes to staging/],
  ['/p/timetable/map/reach?why=main', /can change what production serves/],
  ['/me', /You are/],
  ['/people', /may do something here/],
  ['/machines', /are heard of|is silent/],
  ['/admit?host=nowhere.example', /cannot be opened/],
  ['/join#none', /invitation/],
  ['/password#none', /./],
  ['/mail#none', /./],
  ['/sign-in/back?state=none', /./],
  ['/p/timetable/history/staging', /./],
] as const;
