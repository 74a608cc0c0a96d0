import assert from 'node:assert/strict';
import test from 'node:test';
import { pullRequestRoutes } from '@vaquero/contracts';
import { until } from './support/place.ts';
import { giveWord, numbersOf, open, pages, params, show } from './support/pull-requests.ts';
import { refusalOf, startTestService } from './support/service.ts';

test('a pull request is built where a recipe is for its target, and its merge is not built again', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const files = pages('winter');
  await made.push('Winter', {
    ...files,
    'vaquero.yaml': files['vaquero.yaml'].replace(/.*links.*\n/, ''),
  });
  await made.copy.git('checkout', '--quiet', '-b', 'try/lines');
  const first = await made.copy.commit('Lines', { 'page.html': 'lines' });
  await made.copy.git('push', '--quiet', made.remote, 'try/lines');
  assert.deepEqual(await numbersOf(service), [1], 'no recipe is for that branch by itself');

  const opened = await open(service, 'try/lines');
  assert.equal(opened.name, 'pr-1');
  assert.deepEqual([opened.head?.commit, opened.ahead, opened.outsider], [first, 1, false]);
  assert.deepEqual((await refusalOf(open(service, 'try/lines'))).code, 'pull-request-open');
  const build = await service.buildEnded('timetable', 2);
  assert.deepEqual(
    [build.state, build.ref, build.pullRequest, build.cause],
    [
      'passed',
      'refs/proposed/1',
      { name: 'pr-1', into: 'main', outsider: false },
      'new commit in pr-1',
    ],
  );
  assert.match(build.destination, /preview has one for each pull request into main/);
  assert.match((await show(service)).says, /Build 2 of its head passed/);

  const second = await made.copy.commit('More lines', { 'page.html': 'more lines' });
  await made.copy.git('push', '--quiet', made.remote, 'try/lines');
  assert.equal((await show(service)).head?.commit, second, 'a push moves it before it returns');
  assert.equal((await service.buildEnded('timetable', 3)).commit.id, second);

  // Anybody may fetch its head, and nobody but the service may set it.
  await made.copy.git('fetch', '--quiet', made.remote, 'refs/proposed/1');
  assert.equal(await made.copy.git('rev-parse', 'FETCH_HEAD'), second);
  await assert.rejects(
    made.copy.git('push', '--quiet', made.remote, `+${first}:refs/proposed/1`),
    /only branches and tags are taken here/,
  );

  // The merge commit is another commit with the same tree.
  await made.copy.git('checkout', '--quiet', 'main');
  await made.copy.git('merge', '--quiet', '--no-ff', '--message', 'Merge the lines', 'try/lines');
  await made.copy.git('push', '--quiet', made.remote, 'main');
  const merged = await service.buildEnded('timetable', 4);
  assert.deepEqual(
    [merged.state, merged.reusedFrom, merged.commit.subject, merged.pullRequest],
    ['reused', 3, 'Merge the lines', null],
  );
  const host = `staging.timetable.localhost:${service.edgePort}`;
  await until('staging serves it', async () => (await service.page(host)).text === 'more lines');
  const ended = await show(service);
  assert.deepEqual([ended.state, ended.says], ['merged', 'Its commits are in main.']);
  assert.equal((await refusalOf(giveWord(service, second))).code, 'pull-request-ended');
});

test('a branch and its pull request that want the same inputs are built once', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const recipe = pages('x')['vaquero.yaml'].replace('branch: main', 'branch: [main, "try/*"]');
  await made.push('On main', { ...pages('x'), 'vaquero.yaml': recipe });
  await made.copy.git('checkout', '--quiet', '-b', 'try/signs');
  await made.copy.commit('Signs', { 'page.html': 'signs' });
  await made.copy.git('push', '--quiet', made.remote, 'try/signs');
  await service.buildEnded('timetable', 2);
  await open(service, 'try/signs');
  const known = await service.buildEnded('timetable', 3);
  assert.deepEqual([known.state, known.reusedFrom], ['reused', 2], 'known when it is opened');
  await made.copy.commit('More signs', { 'page.html': 'more signs' });
  await made.copy.git('push', '--quiet', made.remote, 'try/signs');
  const both = await service.buildEnded('timetable', 4);
  assert.deepEqual([both.ref, both.state], ['refs/heads/try/signs', 'passed']);
  assert.deepEqual(await numbersOf(service), [1, 2, 3, 4]);
  assert.deepEqual(
    (await show(service)).builds.map((one) => one.number),
    [4],
  );
  // A branch that goes away without a merge closes what it proposed.
  await made.copy.git('push', '--quiet', made.remote, ':try/signs');
  const closed = await until('it is closed', async () => {
    const seen = await show(service);
    return seen.state !== 'open' && seen;
  });
  assert.equal(closed.state, 'closed');
});

test('a squash is known by its inputs though it is no merge; a branch is proposed to each target apart', async (t) => {
  const service = await startTestService(t);
  const made = await service.project('timetable');
  const { copy, remote } = made;
  const recipe = pages('x')['vaquero.yaml'].replace(/.*links.*\n/, '');
  await made.push('First', { 'page.html': 'x', 'vaquero.yaml': recipe });
  await copy.git('push', '--quiet', remote, 'main:refs/heads/next');
  await copy.git('checkout', '--quiet', '-b', 'try/print');
  await copy.commit('Print', { 'page.html': 'print' });
  await copy.commit('Print, better', { 'page.html': 'print, better' });
  await copy.git('push', '--quiet', remote, 'try/print');
  const toMain = await open(service, 'try/print');
  const toNext = await service.operator.call(pullRequestRoutes.openPullRequestRoute, {
    params,
    body: { branch: 'try/print', into: 'next', title: 'Print, next' },
  });
  assert.deepEqual([toMain.name, toNext.name, toNext.into], ['pr-1', 'pr-2', 'next']);
  assert.deepEqual(
    toMain.commits.map((one) => one.subject),
    ['Print, better', 'Print'],
  );
  assert.deepEqual(toMain.files, [{ path: 'page.html', added: 1, removed: 1 }]);
  assert.equal((await service.buildEnded('timetable', 2)).ref, 'refs/proposed/1');
  assert.deepEqual(toNext.pushes, [], 'no recipe is for what goes into next');

  await copy.git('checkout', '--quiet', 'main');
  await copy.git('merge', '--quiet', '--squash', 'try/print');
  await copy.commit('Print, in one', {});
  await copy.push(remote);
  const squashed = await service.buildEnded('timetable', 3);
  assert.deepEqual([squashed.state, squashed.reusedFrom], ['reused', 2]);
  assert.equal((await show(service)).state, 'open');
  await copy.git('push', '--quiet', remote, 'try/print:next');
  assert.equal((await show(service, 'pr-2')).state, 'merged');

  // Closed, it follows its branch no more; opened again it is another one.
  const name = { params: { ...params, pullRequest: 'pr-1' } };
  await service.operator.call(pullRequestRoutes.closePullRequestRoute, name);
  await copy.git('checkout', '--quiet', 'try/print');
  await copy.commit('Print, once more', { 'page.html': 'once more' });
  await copy.git('push', '--quiet', remote, 'try/print');
  assert.deepEqual(await numbersOf(service), [1, 2, 3]);
  assert.equal((await open(service, 'try/print')).name, 'pr-3');
  assert.equal((await service.buildEnded('timetable', 4)).ref, 'refs/proposed/3');
  const { pullRequests } = await service.operator.call(pullRequestRoutes.listPullRequestsRoute, {
    params,
  });
  assert.deepEqual(
    pullRequests.map((one) => [one.name, one.state]),
    [
      ['pr-3', 'open'],
      ['pr-1', 'closed'],
      ['pr-2', 'merged'],
    ],
  );
  const behind = await service.operator.call(pullRequestRoutes.listPullRequestsRoute, {
    params,
    query: { after: 'pr-3', limit: 1 },
  });
  assert.deepEqual([behind.pullRequests.map(({ name }) => name), behind.more], [['pr-1'], true]);
});
